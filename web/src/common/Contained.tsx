import { Component, type ReactNode } from 'react';
import { NoGraphics } from './noGraphics.ts';
import { Trouble } from './Busy.tsx';

interface Props {
  /** What cannot be shown then, as the beginning of a sentence. */
  what: string;
  children: ReactNode;
}

/** A fault in a part of the page takes that part only: it says so there, and all around it goes on. */
export class Contained extends Component<Props, { error: unknown }> {
  override state: { error: unknown } = { error: null };

  static getDerivedStateFromError(error: unknown): { error: unknown } {
    return { error };
  }

  override render(): ReactNode {
    const { error } = this.state;
    if (error === null) return this.props.children;
    return <Trouble retry={() => this.setState({ error: null })}>{faultWords(this.props.what, error)}</Trouble>;
  }
}

/** What to say of a fault: what the browser lacks, or that it is ours. */
export function faultWords(what: string, error: unknown): string {
  if (error instanceof NoGraphics) return `${what} cannot be drawn: ${error.message}`;
  return `${what} met a fault of ours and stopped. What you did before is kept. If trying again does not help, load the page anew and tell us what you did last.`;
}
