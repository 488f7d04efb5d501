/**
 * Carrying one thing onto another: a row to another place, a drawing onto a mouth. By mouse and pen at once, by touch
 * after a moment, so that a list can still be scrolled. Escape lets go. Every carrying has another way for the keyboard.
 */
import {
  DndContext,
  DragOverlay,
  MouseSensor,
  pointerWithin,
  TouchSensor,
  useDndContext,
  useDraggable,
  useDroppable,
  useSensor,
  useSensors,
} from "@dnd-kit/core";
import { type ReactNode, useId, useRef } from "react";
import { holding } from "./shortcuts";

/** What is carried: of which kind, which one, and what it is called on the way. */
export interface Carried {
  kind: string;
  id: string;
  name: string;
}

/** What a place takes, and what becomes of it there. */
export interface Onto {
  takes: (carried: Carried) => boolean;
  drop: (carried: Carried) => void;
}

/** Screen pixels below which it was a press; milliseconds after which a finger carries, if it stayed within so many. */
const SLACK = 4;
const MOMENT = 250;
const STAYED = 8;

const carriedIn = (thing: { data: { current?: unknown } } | null): Carried | null =>
  (thing?.data.current as Carried | undefined) ?? null;

/** All that can be carried, and where to, lies in here. */
export function Carrying({ children }: { children: ReactNode }) {
  const sensors = useSensors(
    useSensor(MouseSensor, { activationConstraint: { distance: SLACK } }),
    useSensor(TouchSensor, { activationConstraint: { delay: MOMENT, tolerance: STAYED } }),
  );
  const release = useRef<() => void>(() => undefined);
  return (
    <DndContext
      sensors={sensors}
      collisionDetection={pointerWithin}
      onDragStart={() => {
        release.current = holding(() => {
          release.current();
          // The only way to tell it; nobody else hears this one.
          document.dispatchEvent(new KeyboardEvent("keydown", { code: "Escape", key: "Escape" }));
        });
      }}
      onDragCancel={() => release.current()}
      onDragEnd={({ active, over }) => {
        release.current();
        const carried = carriedIn(active);
        const onto = over?.data.current as Onto | undefined;
        if (carried && onto?.takes(carried)) onto.drop(carried);
      }}
    >
      {children}
      <Underway />
    </DndContext>
  );
}

/** What is carried, under the pointer. */
function Underway() {
  const carried = carriedIn(useDndContext().active);
  return (
    <DragOverlay dropAnimation={null} className="carried">
      {carried && <span>{carried.name}</span>}
    </DragOverlay>
  );
}

/** For what can be carried, if it can: to be laid on its element. */
export function useCarried(carried: Carried | null) {
  const { setNodeRef, listeners } = useDraggable({ id: useId(), data: carried ?? undefined, disabled: !carried });
  return { ref: setNodeRef, ...listeners };
}

/** For where something can be carried to: to be laid on its element, and whether what is carried lies over it. */
export function useOnto(onto: Onto | null): { ref: (element: HTMLElement | null) => void; over: boolean } {
  const { setNodeRef, isOver, active } = useDroppable({ id: useId(), data: onto ?? undefined, disabled: !onto });
  const carried = carriedIn(active);
  return { ref: setNodeRef, over: isOver && carried !== null && (onto?.takes(carried) ?? false) };
}
