import { ChakraProvider, defaultSystem } from "@chakra-ui/react";
import { fireEvent, render, screen } from "@testing-library/react";
import { expect, it, vi } from "vitest";
import { gainText } from "./format";
import { readNumber, Value } from "./Value";

const LIMITS = { least: -144, most: 48, usual: 0 };

function shown(value: number, part: Partial<Parameters<typeof Value>[0]> = {}) {
  const onChange = vi.fn();
  render(
    <ChakraProvider value={defaultSystem}>
      <Value
        label="Level"
        value={value}
        limits={LIMITS}
        span={[-30, 30]}
        step={0.1}
        write={gainText}
        onChange={onChange}
        {...part}
      />
    </ChakraProvider>,
  );
  const slider = screen.getByLabelText("Level") as HTMLInputElement;
  const field = screen.getByLabelText("Level: value") as HTMLInputElement;
  const type = (text: string) => {
    fireEvent.change(field, { target: { value: text } });
    fireEvent.keyDown(field, { key: "Enter" });
  };
  return { onChange, slider, field, type };
}

it("takes what is typed, to the last digit, with any unit and sign", () => {
  const { type, onChange } = shown(0);
  type("−3,25 dB");
  expect(onChange).toHaveBeenLastCalledWith(-3.25);
});

it("refuses what is no number or beyond its limits, and says which they are", () => {
  const { type, onChange } = shown(0);
  type("loud");
  expect(screen.getByRole("alert").textContent).toBe("Enter a value from −144.0 dB to +48.0 dB.");
  type("60");
  expect(screen.getByRole("alert")).toBeTruthy();
  expect(onChange).not.toHaveBeenCalled();
});

it("steps by the arrows, and by ten steps with Shift", () => {
  const { slider, field, onChange } = shown(2);
  fireEvent.keyDown(field, { key: "ArrowUp" });
  expect(onChange).toHaveBeenLastCalledWith(2.1);
  fireEvent.keyDown(field, { key: "ArrowDown", shiftKey: true });
  expect(onChange).toHaveBeenLastCalledWith(1);
  fireEvent.keyDown(slider, { key: "ArrowRight", shiftKey: true });
  expect(onChange).toHaveBeenLastCalledWith(3);
  expect(slider.step).toBe("0.1");
});

it("stops at its limits", () => {
  const { field, onChange } = shown(47.9, { span: [40, 48] });
  fireEvent.keyDown(field, { key: "ArrowUp", shiftKey: true });
  expect(onChange).toHaveBeenLastCalledWith(48);
});

it("goes back by a double click to what it is by default, where there is such a value", () => {
  const { slider, onChange } = shown(-6);
  fireEvent.doubleClick(slider);
  expect(onChange).toHaveBeenLastCalledWith(0);
});

it("leaves a double click alone where nothing is usual", () => {
  const { slider, onChange } = shown(-6, { limits: { ...LIMITS, usual: null } });
  fireEvent.doubleClick(slider);
  expect(onChange).not.toHaveBeenCalled();
});

it("stretches its slider to a value that was typed beyond it", () => {
  const { slider } = shown(-41.3);
  expect(Number(slider.min)).toBe(-41.3);
  expect(Number(slider.value)).toBeCloseTo(-41.3);
  expect(Number(slider.max)).toBe(30);
});

it("stretches it to one above as well", () => {
  const { slider } = shown(41.3);
  expect([slider.min, slider.max].map(Number)).toEqual([-30, 41.3]);
});

it("moves by ratios where it is logarithmic", () => {
  const { slider, onChange } = shown(100, { logarithmic: true, span: [40, 1_000], step: 1 });
  expect(Number(slider.value)).toBeCloseTo(Math.log(100));
  fireEvent.keyDown(slider, { key: "ArrowUp", shiftKey: true });
  expect(onChange).toHaveBeenLastCalledWith(48);
});

it.each([
  ["-3 dB", -3],
  ["+1.5", 1.5],
  ["× 0,8", 0.8],
  ["2.5 kHz", 2_500],
  ["180 Hz", 180],
  ["none", null],
])("reads %s as %s", (text, value) => expect(readNumber(text)).toBe(value));
