export { clipNames, Worksheet } from "./Worksheet";
