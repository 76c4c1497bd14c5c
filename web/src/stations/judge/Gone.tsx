import type { Schemas } from "../../api/client";

/** Treatments that lost all their units: no figure is left of them, but that they lost them is a result. */
export function Gone({ view }: { view: Schemas["JudgeView"] }) {
  return (
    <>
      {view.gone.map((g) => (
        <p
          key={g.treatment}
          className="v"
          data-verdict={g.told ? "worse" : "cannot_tell"}
        >
          {g.sentence}
        </p>
      ))}
    </>
  );
}
