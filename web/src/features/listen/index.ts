export { ListenProvider, useListen, useNewSession, useSession } from "./context";
export type { LaneClips } from "./lane";
export type { Labels, Shown } from "./listenState";
export { Pictures } from "./Pictures";
export { isPicture } from "./pictureNames";
export type { Overlay } from "./registry";
export type { Outside } from "./session";
export { listenShortcuts } from "./shortcuts";
export { Transport } from "./Transport";
