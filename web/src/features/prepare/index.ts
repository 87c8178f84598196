export { PrepareStrip } from "./PrepareStrip";
export { QuestionPanel } from "./QuestionPanel";
