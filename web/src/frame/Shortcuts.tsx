import { text } from "../text/en";

export function Shortcuts({ onClose }: { onClose: () => void }) {
  return (
    <div className="shortcuts" role="dialog" aria-label={text.frame.shortcuts}>
      <h2>{text.frame.shortcuts}</h2>
      <dl>
        {text.frame.keys.map(([key, what]) => (
          <div key={key}>
            <dt>
              <kbd>{key}</kbd>
            </dt>
            <dd>{what}</dd>
          </div>
        ))}
      </dl>
      <button type="button" className="plain" onClick={onClose}>
        {text.frame.close}
      </button>
    </div>
  );
}
