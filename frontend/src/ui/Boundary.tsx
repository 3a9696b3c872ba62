import { Component, type ErrorInfo, type ReactNode } from "react";

import { Button } from "./Button";

type Props = { what: string; children: ReactNode };
type State = { error: Error | null };

/** Keeps an error in one part of the page to that part: says what happened, and shows it again when asked. */
export class Boundary extends Component<Props, State> {
  override state: State = { error: null };

  static getDerivedStateFromError(error: Error): State {
    return { error };
  }

  override componentDidCatch(error: Error, info: ErrorInfo) {
    console.error(error, info.componentStack);
  }

  override render() {
    if (!this.state.error) return this.props.children;
    return (
      <div
        role="alert"
        className="grid h-full place-content-center justify-items-center gap-3 p-4 text-center"
      >
        <p className="font-medium">{this.props.what} could not be drawn.</p>
        <p className="text-soft max-w-prose">
          Your work is kept. Show it again; if that does not help, undo the last step or reload the page.
        </p>
        <Button onClick={() => this.setState({ error: null })}>Show again</Button>
      </div>
    );
  }
}
