export { AddTurn } from "./AddTurn";
export { clipNames, Worksheet } from "./Worksheet";
