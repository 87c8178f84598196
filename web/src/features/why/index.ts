export { Why } from "./Why";
