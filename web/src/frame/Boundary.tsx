import { Component, type ReactNode } from "react";
import { text } from "../text/en";

/**
 * Stands around what comes when it is walked to. A part that cannot be fetched, as after the program was brought up to date,
 * or that fails, says so in its own place instead of taking the page away.
 */
export class Boundary extends Component<
  { children: ReactNode; at?: string },
  { failed: boolean }
> {
  override state = { failed: false };

  /** Somewhere else it is tried anew. */
  override componentDidUpdate(before: { at?: string }) {
    if (before.at !== this.props.at && this.state.failed) {
      this.setState({ failed: false });
    }
  }

  static getDerivedStateFromError() {
    return { failed: true };
  }

  override render() {
    return this.state.failed ? (
      <main className="sheet alone lost">
        <h1>{text.frame.notShown}</h1>
        <p>{text.frame.notShownWhy}</p>
        <p>
          <button
            type="button"
            className="plain"
            onClick={() => window.location.reload()}
          >
            {text.frame.loadAgain}
          </button>
        </p>
        <p>
          <a href="/">{text.frame.backToToday}</a>
        </p>
      </main>
    ) : (
      this.props.children
    );
  }
}
