/** How much room an element has. */
import { useEffect, useState } from "react";

/** Width and height in screen pixels inside the border of an element, whenever they change; nothing until they are known. */
export function useRoom(of: React.RefObject<HTMLElement | null>): [number, number] {
  const [room, setRoom] = useState<[number, number]>([0, 0]);
  useEffect(() => {
    const element = of.current;
    if (!element) return;
    const observer = new ResizeObserver(() => setRoom([element.clientWidth, element.clientHeight]));
    observer.observe(element);
    return () => observer.disconnect();
  }, [of]);
  return room;
}
