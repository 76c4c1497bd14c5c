import type { Schemas } from "../../../api/client";

/** What a tasting is called: covered cups by the way they are kept blind, others by what is asked. */
export const kindOf = ({
  way,
  asked,
}: Pick<Schemas["TastingView"], "way" | "asked">) =>
  way === "covered" ? "covered" : asked;
