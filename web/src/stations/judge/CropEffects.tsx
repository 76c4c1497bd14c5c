import type { Schemas } from "../../api/client";
import { text } from "../../text/en";

/** Where each level holds a crop of its own: what each treatment did on each, without a verdict of its own. */
export function CropEffects({ view }: { view: Schemas["JudgeView"] }) {
  if (view.crop_effects.length === 0) {
    return null;
  }
  return (
    <section className="crop-effects">
      <h3>{text.judge.cropByCrop}</h3>
      <ul>
        {view.crop_effects.map((e) => (
          <li key={`${e.crop} ${e.treatment}`}>{e.sentence}</li>
        ))}
      </ul>
      <p className="soft">{text.judge.cropByCropWhy}</p>
    </section>
  );
}
