export { type Copied, CopyTo } from "./CopyTo";
export { Jobs } from "./Jobs";
export { Storage } from "./Storage";
