// What is shown in place of a view that failed: the others still work.
import { Component, type ReactNode } from "react";

interface Props {
  /** What it is a part of; another one begins anew. */
  of: string;
  name: string;
  children: ReactNode;
}

export class Boundary extends Component<Props, { error: Error | null }> {
  override state = { error: null as Error | null };

  static getDerivedStateFromError(error: Error) {
    return { error };
  }

  override componentDidUpdate(before: Props) {
    if (before.of !== this.props.of && this.state.error) this.setState({ error: null });
  }

  override render() {
    const { error } = this.state;
    if (!error) return this.props.children;
    return (
      <main className="flex grow flex-col items-start gap-3 p-8" role="alert">
        <h1 className="text-2xl">{this.props.name} cannot be shown</h1>
        <p className="max-w-[640px] text-base">
          Something in this view failed: {error.message || "no reason was given"}. Everything you made is
          kept; the other views go on working.
        </p>
        <button type="button" className="press press-strong" onClick={() => this.setState({ error: null })}>
          Try again
        </button>
      </main>
    );
  }
}
