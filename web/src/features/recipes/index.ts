export type { ApplyRecipe } from "./Apply";
export { Recipes } from "./Recipes";
export { SaveRecipe } from "./SaveRecipe";
