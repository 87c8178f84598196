/** The heading of a page. It takes the focus when one comes to the page, and names it in the browser. */
import { Text, type TextProps } from "@chakra-ui/react";
import { useEffect, useRef } from "react";

/** The first page is not come to: its focus is where the browser put it. */
let came = false;

type Props = TextProps & { as: "h1" | "h2"; title: string; size: "page" | "part" | "title" };

export function PageHeading({ title, size, ...text }: Props) {
  const heading = useRef<HTMLHeadingElement>(null);
  useEffect(() => {
    if (came) heading.current?.focus();
    came = true;
  }, []);
  return (
    <>
      <title>{`${title} · Wedge Turn`}</title>
      <Text textStyle={size} ref={heading} tabIndex={-1} layerStyle="unringed" {...text} />
    </>
  );
}
