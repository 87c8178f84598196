export { Jobs } from "./Jobs";
