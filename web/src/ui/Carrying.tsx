/**
 * Carrying one thing onto another: a row to another place, a drawing onto a mouth. By mouse and pen at once, by touch
 * after a moment, so that a list can still be scrolled. Escape lets go. Every carrying has another way for the keyboard.
 */
import {
  type Active,
  type CollisionDetection,
  DndContext,
  DragOverlay,
  type Modifier,
  MouseSensor,
  type Over,
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

/** The innermost of what is seen under the pointer that takes what is carried; what is scrolled away takes nothing. */
const underPointer: CollisionDetection = ({ active, droppableContainers, pointerCoordinates: at }) => {
  const carried = carriedIn(active);
  const seen = at && document.elementFromPoint(at.x, at.y);
  if (!carried || !seen) return [];
  const taking = droppableContainers.filter(
    ({ node, data }) => node.current?.contains(seen) && (data.current as Onto | undefined)?.takes(carried),
  );
  const inmost = taking.find(
    ({ node }) => !taking.some((o) => o.node !== node && node.current!.contains(o.node.current)),
  );
  return inmost ? [{ id: inmost.id }] : [];
};

/** What is read out: names, and no instructions for keys, which every carrying has its own way for. */
const ALOUD = {
  announcements: {
    onDragStart: ({ active }: { active: Active }) => `${carriedIn(active)?.name} is carried.`,
    onDragOver: () => undefined,
    onDragEnd: ({ active, over }: { active: Active; over: Over | null }) =>
      `${carriedIn(active)?.name} is ${over ? "put down" : "let go"}.`,
    onDragCancel: ({ active }: { active: Active }) => `${carriedIn(active)?.name} is let go.`,
  },
  screenReaderInstructions: { draggable: "" },
};

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
      collisionDetection={underPointer}
      accessibility={ALOUD}
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

/** Screen pixels from the pointer to what is carried: where it would land stays in sight. */
const BESIDE = 14;

const besidePointer: Modifier = ({ activatorEvent, activeNodeRect, transform }) => {
  const at = (activatorEvent as TouchEvent | null)?.touches?.[0] ?? (activatorEvent as MouseEvent | null);
  if (!at || !activeNodeRect) return transform;
  return {
    ...transform,
    x: transform.x + at.clientX - activeNodeRect.left + BESIDE,
    y: transform.y + at.clientY - activeNodeRect.top + BESIDE,
  };
};

/** What is carried, beside the pointer. */
function Underway() {
  const carried = carriedIn(useDndContext().active);
  return (
    <DragOverlay dropAnimation={null} className="carried" modifiers={[besidePointer]}>
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
