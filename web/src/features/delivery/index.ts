export { DeliveryView, type KeptChoice } from "./DeliveryView";
