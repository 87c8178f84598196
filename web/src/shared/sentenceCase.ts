/** What stands on a control begins with a capital, wherever its words come from. */
import { Children, type ReactNode } from "react";

export const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);

export function sentenceCase(children: ReactNode): ReactNode {
  if (typeof children === "string") return capital(children);
  const [first, ...others] = Children.toArray(children);
  return typeof first === "string" ? [capital(first), ...others] : children;
}
