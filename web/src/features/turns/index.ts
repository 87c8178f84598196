export { AddTurn } from "./AddTurn";
export { kindOf } from "./kinds";
export { type LineCommand, LineMenu } from "./LineMenu";
export { otherwise } from "./otherwise";
export { TurnPanel } from "./TurnPanel";
export { useHushes } from "./useHushes";
export { Place } from "./useInputMeasures";
