import { useEffect, useRef, useState } from "react";

/** A value that waits until it has not changed for a moment; at once where it is about something else. */
export function useSettled<T>(value: T, about: string, milliseconds = 180): T {
  const [settled, setSettled] = useState(value);
  const shown = useRef(about);
  const other = shown.current !== about;
  useEffect(() => {
    shown.current = about;
    if (other) return setSettled(value);
    const timer = setTimeout(() => setSettled(value), milliseconds);
    return () => clearTimeout(timer);
  }, [value, about, other, milliseconds]);
  return other ? value : settled;
}
