export { SignIn } from "./SignIn";
export { SignOut } from "./SignOut";
