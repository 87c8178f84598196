/** What stands on a control begins with a capital, wherever its words come from. */
import { Children, type ReactNode } from "react";

export const capitalise = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);

export function toSentenceCase(children: ReactNode): ReactNode {
  if (typeof children === "string") return capitalise(children);
  const [first, ...others] = Children.toArray(children);
  return typeof first === "string" ? [capitalise(first), ...others] : children;
}
