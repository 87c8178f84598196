export { TurnPanel } from "./TurnPanel";
export { Place } from "./useInputMeasures";
