export { LookAndListen } from "./LookAndListen";
export type { LaneClips } from "./lane";
