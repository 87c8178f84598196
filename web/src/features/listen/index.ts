export { LookAndListen } from "./LookAndListen";
export type { LaneClips } from "./lane";
export type { WedgeSettings } from "./MapLane";
