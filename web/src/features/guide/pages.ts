/** The guide's pages: the Markdown of `docs/guide`, with its pictures, which are part of the built application. */

const FILES = import.meta.glob<string>("../../../../docs/guide/*.md", {
  query: "?raw",
  import: "default",
  eager: true,
});
const PICTURES = import.meta.glob<string>("../../../../docs/screenshots/*.png", {
  query: "?url",
  import: "default",
  eager: true,
});

export type GuidePage = { id: string; title: string; text: string };

const named = (path: string) => path.slice(path.lastIndexOf("/") + 1);

/** In the order in which people work. */
const ORDER = [
  "folder",
  "merge",
  "split",
  "swap",
  "polarity",
  "mid-side",
  "mono",
  "two-voices",
  "two-microphones",
  "voice",
  "recorder",
  "film",
  "range",
  "rates",
  "recipes",
  "null",
  "deliver",
];

export const PAGES: readonly GuidePage[] = Object.entries(FILES)
  .map(([path, text]) => ({
    id: named(path).replace(".md", ""),
    title: /^# (.*)$/m.exec(text)?.[1] ?? "",
    text,
  }))
  .sort((a, b) => ORDER.indexOf(a.id) - ORDER.indexOf(b.id));

/** Where a picture of a page is served. */
export const pictureAt = (link: string): string =>
  Object.entries(PICTURES).find(([path]) => named(path) === named(link))?.[1] ?? link;

/** Pages that hold every word of what was typed. */
export function matching(typed: string): readonly GuidePage[] {
  const words = typed.toLocaleLowerCase().split(/\s+/).filter(Boolean);
  return PAGES.filter(({ text }) => words.every((word) => text.toLocaleLowerCase().includes(word)));
}
