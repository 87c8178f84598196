export { type Compared, ComparePanel } from "./ComparePanel";
export { History } from "./History";
