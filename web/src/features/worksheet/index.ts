export { AddTurn, mergeTurn } from "./AddTurn";
export { clipNames, Worksheet } from "./Worksheet";
