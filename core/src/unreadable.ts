import type { Place } from './place.ts';

/**
 * Input that cannot be read at all. Readers throw it; whoever called a reader turns it into a finding or
 * an exit code. `place` names the byte or line, the message is a whole sentence for the user.
 */
export class UnreadableInput extends Error {
  override name = 'UnreadableInput';
  constructor(
    readonly code: string,
    message: string,
    readonly place: Place = {},
    readonly hint?: string,
  ) {
    super(message);
  }
}
