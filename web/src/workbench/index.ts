export { DeliveryPage, JobPage, WorkbenchPage } from "./JobPage";
