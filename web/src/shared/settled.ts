import { useEffect, useState } from "react";

/** A value that waits until it has not changed for a moment; at once where it is about something else. */
export function useSettled<T>(value: T, about: string, milliseconds = 180): T {
  const [settled, setSettled] = useState({ value, about });
  const other = settled.about !== about;
  useEffect(() => {
    const settle = () => setSettled((now) => (now.value === value && !other ? now : { value, about }));
    if (other) return settle();
    const timer = setTimeout(settle, milliseconds);
    return () => clearTimeout(timer);
  }, [value, about, other, milliseconds]);
  return other ? value : settled.value;
}
