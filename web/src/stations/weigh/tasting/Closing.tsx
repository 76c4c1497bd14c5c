import { Button } from "antd";
import { useState } from "react";
import type { Schemas } from "../../../api/client";
import type { useDeed } from "../../../queries/tasting";
import { text } from "../../../text/en";

interface Props {
  own: Schemas["TastingView"];
  deed: ReturnType<typeof useDeed>;
}

/** Closes a tasting; asks first where somebody has not answered. */
export function Closing({ own, deed }: Props) {
  const words = text.tasting;
  const [asked, setAsked] = useState(false);
  const missing = own.seats.filter((s) => !s.known).length;
  const close = () => deed.mutate({ kind: "close", no: own.no });
  if (!asked) {
    return (
      <p className="closing">
        <Button
          type={missing === 0 ? "primary" : "default"}
          onClick={() => (missing === 0 ? close() : setAsked(true))}
        >
          {words.close}
        </Button>
      </p>
    );
  }
  return (
    <p className="closing" role="alert">
      <span>{words.closeSure(missing)}</span>{" "}
      <Button danger onClick={close}>
        {words.closeYes}
      </Button>{" "}
      <Button onClick={() => setAsked(false)}>{words.closeNo}</Button>
    </p>
  );
}
