/** Bad input: something a person or a file gave us. `code` is stable, the message is a sentence to show. */
export class InputError extends Error {
  override readonly name = 'InputError';
  constructor(
    readonly code: string,
    message: string,
  ) {
    super(message);
  }
}

/** A bug: a state that our own code should have made impossible. */
export class InvariantError extends Error {
  override readonly name = 'InvariantError';
}

/** What a caught value says, as a sentence. */
export function messageOf(error: unknown): string {
  return error instanceof Error ? error.message : String(error);
}
