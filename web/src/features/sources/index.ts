export { DropArea } from "./DropArea";
export { EmptyJob } from "./EmptyJob";
export { type FileFilter, groupStep } from "./rows";
export { SourcePanel } from "./SourcePanel";
export { Sources } from "./Sources";
export { type Uploads, useUploads } from "./uploads";
