import { useQuery } from "@tanstack/react-query";
import { Input } from "antd";
import { farmQuery } from "../../queries/trial";
import { text } from "../../text/en";

/** A date of the farm and, where it is known, an hour. */
export interface When {
  date: string;
  time: string;
}

/** As it is sent: what is left open is left out. */
export const whenSent = ({ date, time }: When) => ({
  date: date || null,
  time: time || null,
});

interface WhenDoneProps {
  /** First date that can be said. */
  from: string | null;
  when: When;
  setWhen: (when: When) => void;
}

/** When something was done: today, or any day and hour since sowing. */
export function WhenDone({ from, when, setWhen }: WhenDoneProps) {
  const farm = useQuery(farmQuery);
  return (
    <>
      <label className="field date">
        <span>{text.tend.work.when}</span>
        <Input
          type="date"
          name="done-on"
          value={when.date}
          min={from ?? undefined}
          max={farm.data?.today}
          onChange={(e) => setWhen({ ...when, date: e.target.value })}
        />
      </label>
      <label className="field short">
        <span>{text.tend.work.hour}</span>
        <Input
          type="time"
          name="done-at"
          value={when.time}
          onChange={(e) => setWhen({ ...when, time: e.target.value })}
        />
      </label>
    </>
  );
}
