import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { renderHook, waitFor } from "@testing-library/react";
import type { ReactNode } from "react";
import { expect, it, vi } from "vitest";
import { useMap } from "./queries";

it("keeps the picture of a clip while its setting moves, and never shows one clip's as another's", async () => {
  const nobody = (_: Response) => {};
  let answer = nobody;
  vi.stubGlobal("fetch", () => new Promise<Response>((resolve) => (answer = resolve)));
  const tell = async (decibels: number) => {
    await waitFor(() => expect(answer).not.toBe(nobody));
    answer(new Response(new Float32Array([decibels]).buffer));
    answer = nobody;
  };
  const queries = new QueryClient();
  const wrapper = ({ children }: { children: ReactNode }) => (
    <QueryClientProvider client={queries}>{children}</QueryClientProvider>
  );
  const { result, rerender } = renderHook(
    ({ clip, key }) => useMap({ job: "j", revision: "r", clips: [clip] }, key, [0, 100]).data?.[0],
    { wrapper, initialProps: { clip: "step:a:0", key: "narrow" } },
  );
  expect(result.current).toBeUndefined();
  await tell(-6);
  await waitFor(() => expect(result.current).toBe(-6));
  rerender({ clip: "step:a:0", key: "wide" });
  expect(result.current).toBe(-6);
  await tell(-9);
  await waitFor(() => expect(result.current).toBe(-9));
  rerender({ clip: "source:b", key: "b" });
  expect(result.current).toBeUndefined();
});
