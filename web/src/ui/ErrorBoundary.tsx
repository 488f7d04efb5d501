/** Where something on a part of the page goes wrong, that part says so, and the rest goes on. */
import { Component, type ReactNode } from "react";
import { Button } from "react-bootstrap";

interface Props {
  /** What went wrong there: “the Motion bench”. */
  what: string;
  children: ReactNode;
}

export class ErrorBoundary extends Component<Props, { error: Error | null }> {
  state = { error: null as Error | null };

  static getDerivedStateFromError(error: Error) {
    return { error };
  }

  render() {
    const { error } = this.state;
    if (!error) return this.props.children;
    return (
      <div className="broken card-sheet" role="alert">
        <h2 className="heading">Something went wrong on {this.props.what}</h2>
        <p className="mb-2">Everything you made is saved, and the other benches work. It said: {error.message}</p>
        <Button size="sm" onClick={() => this.setState({ error: null })}>
          Try again
        </Button>
      </div>
    );
  }
}
