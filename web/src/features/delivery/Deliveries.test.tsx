import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { expect, it, vi } from "vitest";
import { client } from "../../api/client";
import { job, mergeStep, proof, source, splitStep } from "../../api/testing";
import { DEFAULTS } from "./settings";
import { deliveryWith, view } from "./testing";

const DELIVERY = { params: { path: { delivery_id: "d" } } };
const RANGE = { kind: "trim", start: 36_001, end: 36_003, time: "recorded" } as const;

function watchDeletions() {
  const deleted = vi.spyOn(client, "DELETE").mockImplementation((() => new Promise(() => {})) as never);
  deleted.mockClear();
  return deleted;
}

it("shows a running delivery with a way to stop it", async () => {
  const { tell } = view(job([mergeStep()]));
  await tell(["deliveries", "j"], [deliveryWith({ state: "writing", progress: 0.4 })]);
  const card = within(await screen.findByTestId("delivery"));
  expect(card.getByText(/Writing and verifying/)).toBeTruthy();
  expect(card.queryByText("Delete…")).toBeNull();
  fireEvent.click(card.getByText("Stop"));
  expect(client.POST).toHaveBeenCalledWith("/api/deliveries/{delivery_id}/stop", DELIVERY);
});

it("lets a delivered file be dragged out of the window, under its own name", async () => {
  const { tell } = view(job([mergeStep()]));
  const file = { name: "takes/bell & co.wav", bytes: 1, xxh128: "0123456789abcdef0123456789abcdef" };
  await tell(["deliveries", "j"], [deliveryWith({ manifest: { files: [file], proofs: [] } as never })]);
  const setData = vi.fn();
  fireEvent.dragStart(await screen.findByText(file.name), { dataTransfer: { setData } });
  const [kind, carried] = setData.mock.calls[0] ?? [];
  expect(kind).toBe("DownloadURL");
  expect(carried).toMatch(
    /^application\/octet-stream:bell & co\.wav:http.*\/api\/deliveries\/d\/files\/takes\/bell%20%26%20co\.wav$/,
  );
});

it("says over which range a delivery is", async () => {
  const { tell } = view(job([mergeStep()]));
  await tell(["deliveries", "j"], [deliveryWith({ range: RANGE })]);
  expect((await screen.findByTestId("delivery")).textContent).toContain(
    "Delivered · 1 file · 10:00:01.000 to 10:00:03.000, recorded time",
  );
});

it("says why a delivery failed, and what to do", async () => {
  const deleted = watchDeletions();
  const { tell } = view(job([mergeStep()]));
  const error = { code: "disk-full", message: "There is no room for bell.wav", help: "Make room." };
  await tell(["deliveries", "j"], [deliveryWith({ state: "failed", error })]);
  const alert = await screen.findByRole("alert");
  expect(alert.textContent).toBe("There is no room for bell.wav. Make room.");
  fireEvent.click(screen.getByText("Dismiss"));
  expect(deleted).toHaveBeenCalledWith("/api/deliveries/{delivery_id}", DELIVERY);
});

it("hands out what was delivered, with its proof and its checksum", async () => {
  const { tell } = view(job([mergeStep()]));
  const manifest = {
    files: [{ name: "bell & co.wav", bytes: 576_044, xxh128: "0123456789abcdef0123456789abcdef" }],
    proofs: [
      { key: "a", proof: proof({ statement: "All came back." }) },
      { key: "b", proof: proof({ exact: false, statement: "Some did not." }) },
    ],
    findings: [{ code: "clipped", message: "Two samples clipped.", measured: {} }],
  };
  await tell(["deliveries", "j"], [deliveryWith({ manifest: manifest as never })]);
  const file = (await screen.findByText("bell & co.wav")) as HTMLAnchorElement;
  expect(file.getAttribute("href")).toBe("/api/deliveries/d/files/bell%20%26%20co.wav");
  expect(screen.getByText("0123456789ab")).toBeTruthy();
  expect(screen.getByText("Download all as ZIP").getAttribute("href")).toBe("/api/deliveries/d/archive");
  expect(screen.getAllByTestId("delivery-proof").map((one) => one.textContent)).toEqual([
    "All came back.",
    "Some did not.",
  ]);
  expect(screen.getByText("Two samples clipped.")).toBeTruthy();
});

it("delivers once more what a delivery had, as it had it, of the worksheet as it is now", async () => {
  const { tell, ordered } = view(job([mergeStep(), splitStep()], { ends: ["step:m:0"], head: "r9" }));
  const settings = { ...DEFAULTS, depth: "16" as const };
  await tell(
    ["deliveries", "j"],
    [deliveryWith({ refs: ["step:s:0", "step:gone:0"], settings, range: RANGE, to: "Lamp" })],
  );
  fireEvent.click(await screen.findByRole("button", { name: "Deliver again" }));
  await waitFor(() =>
    expect(ordered()).toEqual({
      ...settings,
      refs: ["step:s:0"],
      copies: [],
      range: RANGE,
      to: "Lamp",
      revision: "r9",
    }),
  );
});

it("delivers again with the files that went along, and says what is gone", async () => {
  const sources = ["lamp", "bell"].map((name) => source(name, 1));
  const worksheet = job([mergeStep({ inputs: ["source:x"] })], { sources });
  const { tell, ordered } = view(worksheet);
  const copies = ["source:bell", "source:gone"];
  await tell(["deliveries", "j"], [deliveryWith({ copies })]);
  fireEvent.click(await screen.findByRole("button", { name: "Deliver again" }));
  await Promise.all([
    waitFor(() => expect(ordered()).toMatchObject({ refs: ["step:m:0"], copies: ["source:bell"] })),
    screen.findByText("Delivered without 1 file"), // which goes by itself
  ]);
  const other = view(worksheet);
  await other.tell(["deliveries", "j"], [deliveryWith({ refs: ["step:gone:0"] })]);
  fireEvent.click(await screen.findByRole("button", { name: "Deliver again" }));
  expect(await screen.findByText("Nothing to deliver again")).toBeTruthy();
  expect(other.ordered()).toBeUndefined();
});

it("shows a delivery that is under way, or was begun here, above everything that is chosen", async () => {
  const { tell } = view(job([mergeStep()]));
  const earlier = deliveryWith({ id: "e" });
  await tell(["deliveries", "j"], [deliveryWith({ state: "writing" }), earlier]);
  const [first, second] = await screen.findAllByTestId("delivery");
  const settings = screen.getByLabelText("Bit depth");
  const follows = (one: Element, other: Element) =>
    Boolean(one.compareDocumentPosition(other) & Node.DOCUMENT_POSITION_FOLLOWING);
  expect(follows(first as Element, settings)).toBe(true);
  expect(follows(settings, second as Element)).toBe(true);
  expect(screen.getByText("Earlier deliveries")).toBeTruthy();
});

it("asks before delivered files are deleted", async () => {
  const deleted = watchDeletions();
  const { tell } = view(job([mergeStep()]));
  await tell(["deliveries", "j"], [deliveryWith({ manifest: { files: [], proofs: [] } as never })]);
  fireEvent.click(await screen.findByText("Delete…"));
  expect(deleted).not.toHaveBeenCalled();
  fireEvent.click(await screen.findByRole("button", { name: "Delete" }));
  expect(deleted).toHaveBeenCalledWith("/api/deliveries/{delivery_id}", DELIVERY);
});

it("says how many files are done and how long the others will take", async () => {
  const { tell } = view(job([mergeStep()]));
  const state = { state: "writing", progress: 0.4, files_done: 12, files: 40 } as const;
  await tell(["deliveries", "j"], [deliveryWith({ ...state, seconds_left: 95 })]);
  expect((await screen.findByTestId("delivery")).textContent).toContain("12 of 40 files done · 2 min left");
});

it("compares a delivery with an earlier one", async () => {
  const { tell } = view(job([mergeStep()]));
  const manifest = { files: [], proofs: [] } as never;
  await tell(["deliveries", "j"], [deliveryWith({ manifest }), deliveryWith({ id: "e", manifest })]);
  const [compare] = await screen.findAllByRole("button", { name: "Compare" });
  expect(screen.getAllByRole("button", { name: "Compare" })).toHaveLength(1);
  fireEvent.click(compare as HTMLElement);
  await tell(
    ["differences", "d", "e"],
    [
      { name: "bell.wav", change: "same", detail: "" },
      { name: "sea.wav", change: "written", detail: "24 → 16 bit" },
    ],
  );
  const shown = await screen.findByRole("group", { name: "Differences" });
  expect(shown.textContent).toContain("1 file identical, 1 different");
  expect(shown.textContent).toContain("sea.wavsame audio, different file24 → 16 bit");
});
