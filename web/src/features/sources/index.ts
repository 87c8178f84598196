export { Sources } from "./Sources";
export { DropArea, useUploads } from "./uploads";
