import { Badge } from "../../marks/Mark";

/** Whose cell it is, on a phone: the cells of a row then stand in lines of their own, and no head above them. */
export function CellMark({ treatment }: { treatment: number }) {
  return (
    <span className="cell-mark">
      <Badge treatment={treatment} />
    </span>
  );
}
