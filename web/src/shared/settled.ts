import { useEffect, useState } from "react";

/** A value that waits until it has not changed for a moment; at once where it is about something else. */
export function useSettled<T>(value: T, about: string, milliseconds = 180): T {
  const [settled, setSettled] = useState({ value, about });
  const isOther = settled.about !== about;
  useEffect(() => {
    const settle = () => setSettled((now) => (now.value === value && !isOther ? now : { value, about }));
    if (isOther) return settle();
    const timer = setTimeout(settle, milliseconds);
    return () => clearTimeout(timer);
  }, [value, about, isOther, milliseconds]);
  return isOther ? value : settled.value;
}
