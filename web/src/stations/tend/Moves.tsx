import type { TrialView } from "../../api/client";
import { text } from "../../text/en";

/** Who moves where next; shown where the move is due. */
export function Moves({ trial }: { trial: TrialView }) {
  const { rotation } = trial;
  if (!rotation) {
    return null;
  }
  return (
    <div className="moves">
      <p className="soft">
        {text.tend.moves(rotation.moves_done + 1, rotation.moves_in_round)}
      </p>
      <ol>
        {rotation.next.map((move) => (
          <li key={move.code}>
            <b>{move.code}</b>{" "}
            {text.tend.move(move.from.level, move.from.slot, move.to.slot)}
          </li>
        ))}
      </ol>
    </div>
  );
}
