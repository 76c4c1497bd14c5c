import { Button, Input } from "antd";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { shown, typed } from "../../marks/number";
import { text } from "../../text/en";

interface Props {
  times: string;
  setTimes: (times: string) => void;
  stock: Schemas["Stock"] | null;
  name: string;
  wrong: boolean;
}

/** Tanks A and B of concentrate: what goes into each, how near it is to dropping a salt, and a label for the shelf. */
export function Concentrates({ times, setTimes, stock, name, wrong }: Props) {
  const [litres, setLitres] = useState("1");
  // Only at first: clearing the field must not fold it away under the hand.
  const [open] = useState(times !== "");
  const size = typed(litres);
  const each = size === null || Number.isNaN(size) ? 1 : size;
  return (
    <details className="materials concentrates" open={open}>
      <summary>{text.bench.stock}</summary>
      <p>{text.bench.stockWhy}</p>
      <div className="bench-head">
        <label className="field short">
          <span>{text.bench.times}</span>
          <Input
            name="stock-times"
            inputMode="decimal"
            value={times}
            placeholder="100"
            status={wrong || Number.isNaN(typed(times)) ? "error" : ""}
            onChange={(e) => setTimes(e.target.value)}
          />
        </label>
        <label className="field short">
          <span>{text.bench.stockLitres}</span>
          <Input
            name="stock-litres"
            inputMode="decimal"
            value={litres}
            status={Number.isNaN(size) ? "error" : ""}
            onChange={(e) => setLitres(e.target.value)}
          />
        </label>
        {stock && stock.tanks.length > 0 && (
          <Button className="noprint" onClick={() => window.print()}>
            {text.bench.printLabels}
          </Button>
        )}
      </div>
      {stock && (
        <>
          <p className="soft">{text.bench.most(shown(stock.times_most, 0))}</p>
          <div className="stock-tanks">
            {stock.tanks.map((tank) => (
              <Tank
                key={tank.letter}
                tank={tank}
                stock={stock}
                litres={each}
                name={name}
              />
            ))}
          </div>
          {stock.warnings.map((w) => (
            <p key={w.code + w.message} className={`mix-warning ${w.severity}`}>
              {w.message}
            </p>
          ))}
        </>
      )}
    </details>
  );
}

function Tank({
  tank,
  stock,
  litres,
  name,
}: {
  tank: Schemas["StockTank"];
  stock: Schemas["Stock"];
  litres: number;
  name: string;
}) {
  const full = Math.min(1.2, tank.fullness);
  return (
    <article className="stock-tank">
      <h3>
        {tank.letter}{" "}
        <span>{text.bench.strength(name, shown(stock.times, 0))}</span>
      </h3>
      <p className="dose">
        {text.bench.perLitre(
          shown(stock.ml_per_l, stock.ml_per_l < 10 ? 1 : 0),
          stock.tanks.map((t) => t.letter).join(" and "),
          shown(stock.times, 0),
        )}
      </p>
      <ol>
        {tank.parts.map((p) => (
          <li key={p.index}>
            <b>
              {typeof p.ml_per_l === "number"
                ? `${shown(p.ml_per_l * litres, 1)} mL`
                : `${shown(p.g_per_l * litres, p.g_per_l * litres < 10 ? 2 : 1)} g`}
            </b>{" "}
            {p.name}
          </li>
        ))}
      </ol>
      <p className="soft">{text.bench.fillUp(shown(litres, 2))}</p>
      <div
        className="fullness noprint"
        role="img"
        aria-label={text.bench.fullness(
          shown(100 * tank.fullness, 0),
          tank.nearest ?? null,
        )}
      >
        <i
          style={{ width: `${(100 * full) / 1.2}%` }}
          className={
            tank.fullness > 1 ? "over" : tank.fullness > 0.8 ? "near" : ""
          }
        />
        <u />
      </div>
      <p className="soft noprint">
        {text.bench.fullness(
          shown(100 * tank.fullness, 0),
          tank.nearest ?? null,
        )}
      </p>
      <p className="onlyprint">
        {text.bench.labelCaution(
          new Date().toLocaleDateString(undefined, { dateStyle: "long" }),
        )}
      </p>
    </article>
  );
}
