export { AddTurn } from "./AddTurn";
export { kindOf } from "./kinds";
export { TurnPanel } from "./TurnPanel";
export { Place } from "./useInputMeasures";
