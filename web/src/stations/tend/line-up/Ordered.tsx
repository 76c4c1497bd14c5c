import {
  DndContext,
  PointerSensor,
  useDraggable,
  useDroppable,
  useSensor,
  useSensors,
  type DragEndEvent,
} from "@dnd-kit/core";
import { type KeyboardEvent, useEffect, useRef, useState } from "react";
import { text } from "../../../text/en";
import {
  type Goal,
  moved,
  numbers,
  type Order,
  stepped,
  takenOut,
} from "./order";

interface Props {
  order: Order;
  setOrder: (order: Order) => void;
  picture: (code: string) => string | undefined;
  /** Whether all stand in it. */
  whole: boolean;
}

/** The order: codes are dragged, or moved by half steps with keys and taps. */
export function Ordered({ order, setOrder, picture, whole }: Props) {
  const words = text.lineUp;
  const [chosen, setChosen] = useState<string | null>(null);
  const list = useRef<HTMLOListElement>(null);
  const stepping = useRef<string | null>(null);
  useEffect(() => {
    // A code that was moved by key stands in another row now; the focus goes with it.
    const code = stepping.current;
    stepping.current = null;
    if (code !== null) {
      list.current
        ?.querySelector<HTMLElement>(`[data-code="${CSS.escape(code)}"]`)
        ?.focus();
    }
  }, [order]);
  const step = (code: string, up: boolean) => {
    stepping.current = code;
    setOrder(stepped(order, code, up));
  };
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 6 } }),
  );
  const dropped = ({ active, over }: DragEndEvent) => {
    const goal = over?.data.current as Goal | undefined;
    if (goal) {
      setOrder(moved(order, String(active.id), goal));
    }
  };
  const places = numbers(order);
  const count = places.at(-1)?.[1] ?? 0;
  return (
    <section className="ordered" aria-label={words.order}>
      <h3>{words.order}</h3>
      {order.length === 0 ? (
        <p className="soft">{words.orderNone}</p>
      ) : (
        <p className="soft">{words.hint}</p>
      )}
      <DndContext sensors={sensors} onDragEnd={dropped}>
        <ol ref={list}>
          {order.map((tied, i) => {
            const [first, last] = places[i] ?? [0, 0];
            return (
              <Place key={tied.join(" ")} at={i} end={i === order.length - 1}>
                <span className="number">
                  {first === last ? first : `${first} – ${last}`}
                  <em>
                    {i === 0
                      ? words.best
                      : whole && i === order.length - 1
                        ? words.worst
                        : ""}
                  </em>
                </span>
                {tied.map((code) => (
                  <Card
                    key={code}
                    code={code}
                    picture={picture(code)}
                    label={words.place(code, first, last, count)}
                    chosen={chosen === code}
                    choose={() => setChosen(chosen === code ? null : code)}
                    step={(up) => step(code, up)}
                    out={() => setOrder(takenOut(order, code))}
                  />
                ))}
              </Place>
            );
          })}
        </ol>
      </DndContext>
    </section>
  );
}

/** One place of the order: dropped into it a code is tied, dropped between two it stands alone. */
function Place({
  at,
  end,
  children,
}: {
  at: number;
  end: boolean;
  children: React.ReactNode;
}) {
  const before = useDroppable({
    id: `before ${at}`,
    data: { before: at } satisfies Goal,
  });
  const into = useDroppable({
    id: `into ${at}`,
    data: { into: at } satisfies Goal,
  });
  const after = useDroppable({
    id: `after ${at}`,
    data: { before: at + 1 } satisfies Goal,
    disabled: !end,
  });
  return (
    <li>
      <div
        ref={before.setNodeRef}
        className={before.isOver ? "gap over" : "gap"}
      />
      <div ref={into.setNodeRef} className={into.isOver ? "tied over" : "tied"}>
        {children}
      </div>
      {end && (
        <div
          ref={after.setNodeRef}
          className={after.isOver ? "gap over" : "gap"}
        />
      )}
    </li>
  );
}

interface CardProps {
  code: string;
  picture: string | undefined;
  label: string;
  chosen: boolean;
  choose: () => void;
  step: (up: boolean) => void;
  out: () => void;
}

function Card({ code, picture, label, chosen, choose, step, out }: CardProps) {
  const words = text.lineUp;
  const drag = useDraggable({ id: code });
  const keys = (e: KeyboardEvent) => {
    if (e.key === "ArrowUp" || e.key === "ArrowDown") {
      e.preventDefault();
      step(e.key === "ArrowUp");
    } else if (e.key === "Delete" || e.key === "Backspace") {
      e.preventDefault();
      out();
    }
  };
  const shift = drag.transform
    ? {
        transform: `translate(${drag.transform.x}px, ${drag.transform.y}px)`,
        zIndex: 3,
      }
    : undefined;
  return (
    <span className="placed-card">
      <button
        ref={drag.setNodeRef}
        type="button"
        data-code={code}
        className={chosen ? "code-card chosen" : "code-card"}
        style={shift}
        aria-label={label}
        aria-pressed={chosen}
        {...drag.listeners}
        onClick={choose}
        onKeyDown={keys}
      >
        {picture && <img src={picture} alt="" draggable={false} />}
        <b>{code}</b>
      </button>
      {chosen && (
        <span className="card-ways">
          <button
            type="button"
            aria-label={words.up(code)}
            onClick={() => step(true)}
          >
            ↑
          </button>
          <button
            type="button"
            aria-label={words.down(code)}
            onClick={() => step(false)}
          >
            ↓
          </button>
          <button type="button" aria-label={words.out(code)} onClick={out}>
            ×
          </button>
        </span>
      )}
    </span>
  );
}
