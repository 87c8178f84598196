/** Before and after every test: the files share one page, so each test leaves it as it was. */
import { cleanup, configure } from "@testing-library/react";
import { afterEach, vi } from "vitest";

// As long as a busy machine may take.
configure({ asyncUtilTimeout: 30_000 });

// What jsdom has not, of what a page looks at.
class NoResize implements ResizeObserver {
  observe() {}
  unobserve() {}
  disconnect() {}
}
const matchMedia = () => ({
  matches: false,
  addEventListener: () => {},
  removeEventListener: () => {},
  addListener: () => {}, // which Chakra asks for
  removeListener: () => {},
});
Object.assign(window, { ResizeObserver: NoResize, matchMedia });
HTMLCanvasElement.prototype.getContext = () => null;
// Lists draw the rows that are in sight.
Object.defineProperty(Element.prototype, "clientHeight", { configurable: true, value: 400 });

afterEach(() => {
  vi.useRealTimers();
  cleanup();
  vi.restoreAllMocks();
  vi.unstubAllGlobals();
  document.body.replaceChildren();
  localStorage.clear();
});
