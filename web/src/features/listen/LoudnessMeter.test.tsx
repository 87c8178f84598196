import { act, screen } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import * as binary from "../../api/binary";
import { clip, job } from "../../api/testing";
import { show } from "../../shared/testing";
import { ListenProvider } from "./context";
import { LoudnessMeter, loudnessText } from "./LoudnessMeter";
import { ListenSession } from "./session";

afterEach(() => void vi.restoreAllMocks());

it("writes silence and what is not known yet apart", () => {
  expect([undefined, -120, -70, -23.04].map(loudnessText)).toEqual(["–", "−∞", "−∞", "−23.0"]);
});

it("shows the loudness of what has been heard, and asks for it only while it plays", async () => {
  const asked = vi
    .spyOn(binary, "fetchFloats")
    .mockImplementation(async () => Float32Array.from({ length: 1_200 }, (_, n) => -(n >> 1) - (n % 2) / 2));
  const session = new ListenSession({
    loudness: async () => ({ loudness: null, truePeak: null }),
    onProblem: () => {},
  });
  const input = { label: "In" as const, clips: [clip("song", 2, { frames: 48_000 * 90 })] };
  const labels = ["In", "Out", "In − Out"] as const;
  session.show({ job: "j", revision: "r", input, output: null, labels, picture: "wave" }, job([]));
  show(
    <ListenProvider session={session}>
      <LoudnessMeter />
    </ListenProvider>,
  );
  expect(asked).not.toHaveBeenCalled();
  vi.spyOn(session.player, "position", "get").mockReturnValue(48_000 * 1.25);
  act(() => session.store.setState({ playing: true }));
  // In the twelfth stretch, the eleventh has been heard: −11 and −11.5.
  await vi.waitFor(() => expect(screen.getByTestId("loudness").textContent).toContain("M−11.0S−11.5"));
  expect(asked.mock.calls[0]?.slice(1, 3)).toEqual(["loudness", { first: 0, count: 600 }]);
  vi.spyOn(session.player, "position", "get").mockReturnValue(48_000 * 61);
  await vi.waitFor(() => expect(asked).toHaveBeenCalledTimes(2));
  expect(asked.mock.calls[1]?.[2]).toEqual({ first: 600, count: 600 });
});
