import { expect, it } from "vitest";

/** 4, 8, 12, 16, 24 and, between the parts of a page, 48 pixels, in units of four. */
const SCALE = [0, 1, 2, 3, 4, 6, 12].map(String);
const SPACE = /\b(?:gap|rowGap|columnGap|p[xytblr]?|m[xytblr]?)(?:=\{|: |=\{\{ \w+: )-?([\d.]+)/g;
const sources = import.meta.glob<string>("../**/*.{ts,tsx}", {
  query: "?raw",
  import: "default",
  eager: true,
});

/** In a component; the words in a drawing are its own. */
const SHAPE =
  /<(?!text\b)[A-Z][\w.]*\s(?:[^<>]|=>)*?\b(?:font\w+|lineHeight|border\w*|boxShadow|outline\w*)=/g;

it("leaves type and edges to the theme", () => {
  const components = Object.entries(sources).filter(([file]) => /(?<!\.test)\.tsx$/.test(file));
  expect(components.length).toBeGreaterThan(80);
  expect(components.flatMap(([file, text]) => (text.match(SHAPE) ?? []).map((tag) => [file, tag]))).toEqual(
    [],
  );
});

it("spaces everything by one scale", () => {
  const spaces = Object.entries(sources)
    .filter(([file]) => !file.includes(".test."))
    .flatMap(([file, text]) =>
      [...text.matchAll(SPACE)].map(([whole, space]) => [file, whole, space] as const),
    );
  expect(spaces.length).toBeGreaterThan(200);
  expect(spaces.filter(([, , space]) => !SCALE.includes(space ?? ""))).toEqual([]);
});
