import { useQuery } from "@tanstack/react-query";
import { useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import type { TrialView } from "../../api/client";
import { catalogueQuery, resized, usePlan } from "../../queries/trial";
import { text } from "../../text/en";

/** Pixels of a drag that stand for one more slot or level. */
const STEP = { across: 90, down: 90 };

const within = (value: number, most: number) =>
  Math.min(most, Math.max(1, value));

/** A handle at the corner of the space: dragged, or moved by the arrow keys, it makes it larger or smaller. */
export function Sizer({ trial }: { trial: TrialView }) {
  const plan = usePlan(trial.id);
  const start = useRef<{ x: number; y: number } | null>(null);
  const [size, setSize] = useState<{ levels: number; slots: number } | null>(
    null,
  );
  const { levels, slots } = trial.rack;
  const limits = useQuery(catalogueQuery).data?.limits ?? { levels, slots };
  const grown = (down: number, across: number) => ({
    levels: within(levels + down, limits.levels),
    slots: within(slots + across, limits.slots),
  });
  const put = (next: { levels: number; slots: number }) => {
    if (next.levels !== levels || next.slots !== slots) {
      plan.mutate({
        part: "rack",
        rack: resized(next),
      });
    }
  };
  const drag = (e: PointerEvent<HTMLButtonElement>) => {
    if (start.current) {
      setSize(
        grown(
          Math.round((e.clientY - start.current.y) / STEP.down),
          Math.round((e.clientX - start.current.x) / STEP.across),
        ),
      );
    }
  };
  const end = () => {
    start.current = null;
    if (size) {
      put(size);
    }
    setSize(null);
  };
  const key = (e: KeyboardEvent) => {
    const by = {
      ArrowDown: [1, 0],
      ArrowUp: [-1, 0],
      ArrowRight: [0, 1],
      ArrowLeft: [0, -1],
    }[e.key];
    if (by) {
      e.preventDefault();
      put(grown(by[0] ?? 0, by[1] ?? 0));
    }
  };
  return (
    <div className="sizer">
      <button
        type="button"
        aria-label={text.place.sizer}
        title={text.place.sizer}
        onKeyDown={key}
        onPointerMove={drag}
        onPointerUp={end}
        onPointerCancel={() => setSize(null)}
        onPointerDown={(e) => {
          start.current = { x: e.clientX, y: e.clientY };
          e.currentTarget.setPointerCapture(e.pointerId);
        }}
      >
        <svg width={16} height={16} aria-hidden="true">
          <path
            d="M15 3V15H3M15 8V15H8"
            fill="none"
            stroke="currentColor"
            strokeWidth={1.6}
          />
        </svg>
      </button>
      <span className="soft">
        {size
          ? text.place.sizing(size.levels, size.slots)
          : text.place.sizerHow}
      </span>
      {plan.error && (
        <span className="soft" role="alert">
          {plan.error.message}
        </span>
      )}
    </div>
  );
}
