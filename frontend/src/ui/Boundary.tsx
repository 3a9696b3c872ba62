import { Component, type ErrorInfo, type ReactNode } from "react";

import { Button } from "./Button";

/** bar: what is shown in its place is one line, as wide as the page. */
type Props = { what: string; bar?: boolean; children: ReactNode };
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
    const again = <Button onClick={() => this.setState({ error: null })}>Show again</Button>;
    if (this.props.bar)
      return (
        <div role="alert" className="col-span-full flex h-full items-center gap-3 overflow-hidden px-4">
          <p className="grow truncate">{this.props.what} could not be drawn. Your work is kept.</p>
          {again}
        </div>
      );
    return (
      <div
        role="alert"
        className="grid h-full place-content-center justify-items-center gap-3 p-4 text-center"
      >
        <p className="font-medium">{this.props.what} could not be drawn.</p>
        <p className="text-soft max-w-prose">
          Your work is kept. Show it again; if that does not help, undo the last step or reload the page.
        </p>
        {again}
      </div>
    );
  }
}
