export { DeliveryView, type KeptChoice } from "./DeliveryView";
export { deliverDirectly, saveDelivery, type Wanted } from "./direct";
