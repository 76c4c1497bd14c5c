import { Button, Input } from "antd";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Schemas, TrialView } from "../../api/client";
import { sendHere } from "../../api/outbox";
import { Trouble } from "../../frame/Trouble";
import { farmQuery, useTrialWrite } from "../../queries/trial";
import { inWords } from "../../marks/words";
import { text } from "../../text/en";

/** A loss as it is told; without a reason it is taken back. */
interface Loss {
  code: string;
  reason: string | null;
  date?: string | null;
}

function useWriteOff(trial: TrialView) {
  return useTrialWrite(trial.id, ({ code, reason, date }: Loss) => {
    const head = { unit: code, ...(date ? { date } : {}) };
    return sendHere({
      trial: trial.id,
      records: [{ kind: "write_off", head, body: { reason } }],
    });
  });
}

/** A unit that is lost, with its reason; taken back the same way. */
export function WriteOff({
  trial,
  row,
}: {
  trial: TrialView;
  row: Schemas["WeighRow"];
}) {
  const [reason, setReason] = useState<string | null>(null);
  const [date, setDate] = useState("");
  const farm = useQuery(farmQuery);
  const write = useWriteOff(trial);
  if (row.lost) {
    return (
      <p className="soft">
        {row.lost_day == null
          ? row.lost
          : text.weigh.lostOn(row.lost, row.lost_day)}{" "}
        <button
          type="button"
          className="plain"
          onClick={() => write.mutate({ code: row.code, reason: null })}
        >
          {text.weigh.takeBack}
        </button>
      </p>
    );
  }
  if (reason === null) {
    return (
      <button type="button" className="plain" onClick={() => setReason("")}>
        {inWords(trial, text.weigh.writeOff)}
      </button>
    );
  }
  return (
    <div className="writeoff">
      <Input
        name="lost"
        placeholder={text.weigh.lostReason}
        value={reason}
        onChange={(e) => setReason(e.target.value)}
      />
      {trial.sown_on && (
        <label className="field">
          <span>{text.weigh.lostWhen}</span>
          <Input
            type="date"
            name="lost-on"
            min={trial.sown_on}
            max={farm.data?.today}
            value={date || farm.data?.today}
            onChange={(e) => setDate(e.target.value)}
          />
        </label>
      )}
      <Button
        onClick={() =>
          write.mutate({ code: row.code, reason, date: date || null })
        }
        disabled={reason.trim() === ""}
      >
        {text.weigh.keepLost}
      </Button>
      <Trouble error={write.error} />
    </div>
  );
}
