import { fireEvent, screen } from "@testing-library/react";
import { expect, it } from "vitest";
import { LIMITS } from "../../../api/limits.gen";
import { DEFAULTS, findingOf } from "../../../api/testing";
import { kindOf } from "../kinds";
import { choose, openMore, PLACE, settings, shownAt, slide } from "../settingsTesting";

const forecastOf = (better: string) => ({ forecast: { better }, message: "Should work well." });

it("offers of a centre what its method can do", () => {
  const { changed } = settings(DEFAULTS.centre);
  expect(screen.queryByLabelText("Selectivity")).toBeNull();
  openMore();
  expect(screen.getByLabelText("Selectivity")).toBeTruthy();
  expect(shownAt("Low limit")).toBe("180 Hz");
  expect(screen.getByLabelText("Wedge width")).toBeTruthy();
  expect(shownAt("High limit")).toBe("10.00 kHz");
  choose("Method", "voice");
  expect(changed()).toEqual({ ...DEFAULTS.centre, method: "voice" });
  const wide = settings({ ...DEFAULTS.centre, opening: 2 });
  choose("Method", "voice");
  expect(wide.changed().opening).toBe(1);
  settings({ ...DEFAULTS.centre, method: "voice" });
  openMore();
  expect(screen.queryByLabelText("Wedge width")).toBeNull();
  expect(shownAt("Low limit")).toBe("no limit");
  settings({ ...DEFAULTS.centre, method: "difference" });
  openMore();
  expect(screen.queryByLabelText("Selectivity")).toBeNull();
  expect(screen.queryByLabelText("Outside the band")).toBeNull();
  expect(shownAt("Low limit")).toBe("no limit");
  const low = settings({ ...DEFAULTS.centre, method: "difference", low_hz: 200 });
  choose("Outside the band", "left");
  expect(low.changed().lows).toBe("left");
});

it("takes the ends of the band's lines for no limit", () => {
  const { changed } = settings(DEFAULTS.centre);
  slide("Low limit", Math.log(40));
  expect(changed().low_hz).toBe(0);
  slide("Low limit", Math.log(250));
  expect(changed().low_hz).toBeGreaterThanOrEqual(248);
  expect(changed().low_hz).toBeLessThanOrEqual(252);
  openMore();
  slide("High limit", Math.log(18_000));
  expect(changed().high_hz).toBe("max");
});

it("says what to expect of a centre, and takes what the material suggests", async () => {
  const { tell, changed } = settings(DEFAULTS.centre);
  const findings = [findingOf("wide-reverb", { message: "Much will stay." })];
  await tell(
    "expectation",
    { expectation: { low_hz: 140, position: -0.2 }, findings },
    DEFAULTS.centre.method,
  );
  expect((await screen.findByTestId("finding-wide-reverb")).textContent).toBe("Much will stay.");
  fireEvent.click(screen.getByText("Use suggestion: from 140 Hz, L20"));
  expect(changed()).toEqual({ ...DEFAULTS.centre, low_hz: 140, position: -0.2 });
  const voice = settings({ ...DEFAULTS.centre, method: "voice" });
  await voice.tell("expectation", { expectation: { low_hz: 140, position: -0.2 }, findings }, "voice");
  fireEvent.click(await screen.findByText("Use suggestion: L20"));
  expect(voice.changed()).toEqual({ ...DEFAULTS.centre, method: "voice", position: -0.2 });
});

it("says how well a voice should come out, and takes the method that should do better", async () => {
  const voice = settings({ ...DEFAULTS.centre, method: "voice" });
  expect(screen.getByText("Measuring how well it should work…")).toBeTruthy();
  await voice.tell("forecast", forecastOf("voice"), "source:sea", 0);
  expect((await screen.findByTestId("forecast")).textContent).toBe("Should work well.");
  await voice.tell("forecast", forecastOf("wedge"), "source:sea", 0);
  fireEvent.click(await screen.findByText("Use the wedge"));
  expect(voice.changed()).toMatchObject({ method: "wedge", opening: 1 });
});

it("says how well a voice should come out at the position that was chosen", async () => {
  const aside = settings({ ...DEFAULTS.centre, method: "voice", position: -0.2 });
  await aside.tell("forecast", forecastOf("voice"), "source:sea", 0);
  expect(screen.getByText("Measuring how well it should work…")).toBeTruthy();
  await aside.tell("forecast", forecastOf("voice"), "source:sea", -0.2);
  expect((await screen.findByTestId("forecast")).textContent).toBe("Should work well.");
});

it("offers the voice method where it should do better than the wedge", async () => {
  const wedge = settings({ ...DEFAULTS.centre, method: "wedge", opening: 2 });
  await wedge.tell("forecast", forecastOf("wedge"), "source:sea", 0);
  expect(screen.queryByTestId("forecast")).toBeNull();
  await wedge.tell("forecast", forecastOf("voice"), "source:sea", 0);
  fireEvent.click(await screen.findByText("Use the voice method"));
  expect(wedge.changed()).toMatchObject({ method: "voice", opening: 1 });
});

it("computes an older line by the newest version of the voice method by one click", () => {
  const latest = LIMITS.centre.version.usual;
  const older = settings({ ...DEFAULTS.centre, method: "voice", version: latest - 1 });
  fireEvent.click(screen.getByText(`Use version ${latest} of the voice method`));
  expect(older.changed().version).toBe(latest);
  settings({ ...DEFAULTS.centre, method: "voice", version: latest });
  expect(screen.queryByText(/^Use version/)).toBeNull();
});

it("puts the turn that a centre needs before its line by one click", async () => {
  const { tell } = settings(DEFAULTS.centre);
  const turn = { kind: "align" as const, delay: [0, 14] };
  const remedy = { label: "align", turn, followed_by: [], names: [], over: null };
  const expectation = { low_hz: 180, position: 0 };
  await tell(
    "expectation",
    { expectation, findings: [findingOf("delay", { remedy })] },
    DEFAULTS.centre.method,
  );
  fireEvent.click(await screen.findByText("Align first"));
  expect(PLACE.insertBefore).toHaveBeenCalledWith("s", {
    turn,
    followed_by: [],
    inputs: ["source:sea"],
    names: [],
    over: null,
    reason: "",
  });
});

it("goes as far by slider as by hand in the small picture", () => {
  const most = (label: string) => Number((screen.getByLabelText(label) as HTMLInputElement).max);
  settings(DEFAULTS.width);
  const [handle] = kindOf(DEFAULTS.width).handles(DEFAULTS.width);
  expect(handle?.moved({ x: -100, y: -1 })).toMatchObject({ width: most("Width") });
  settings(DEFAULTS.decode);
  const [side] = kindOf(DEFAULTS.decode).handles(DEFAULTS.decode);
  expect(side?.moved({ x: -100, y: 0 })).toMatchObject({ side_db: most("Side level") });
});
