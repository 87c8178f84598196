export { DeliveryView } from "./DeliveryView";
