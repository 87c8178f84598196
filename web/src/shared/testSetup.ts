/** Before and after every test: the files share one page, so each test leaves it as it was. */
import { cleanup, configure } from "@testing-library/react";
import { afterEach, vi } from "vitest";

// As long as a busy machine may take.
configure({ asyncUtilTimeout: 30_000 });

afterEach(() => {
  vi.useRealTimers();
  cleanup();
  vi.restoreAllMocks();
  vi.unstubAllGlobals();
  document.body.replaceChildren();
  localStorage.clear();
});
