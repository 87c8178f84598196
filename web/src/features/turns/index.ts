export { TurnPanel } from "./TurnPanel";
