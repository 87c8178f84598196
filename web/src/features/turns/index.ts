export { AddTurn } from "./AddTurn";
export { findFallbackSteps } from "./fallbackSteps";
export { kindOf } from "./kinds";
export { TurnPanel } from "./TurnPanel";
export { useHushes } from "./useHushes";
export { Place } from "./useInputMeasures";
