export { History } from "./History";
