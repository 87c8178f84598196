export { ListenProvider, useListen, useNewSession, useSession } from "./context";
export type { LaneClips } from "./lane";
export type { WedgeSettings } from "./MapLane";
export { Pictures } from "./Pictures";
export { isPicture } from "./pictureNames";
export type { Overlay } from "./registry";
export type { Labels, Outside, Shown } from "./session";
export { listenShortcuts } from "./shortcuts";
export { Transport } from "./Transport";
