/** Where in a file or a call something went wrong. */
export interface Place {
  file?: string;
  row?: number;
  column?: string;
  field?: string;
}

/** The server's one error: a code for programs, a sentence for a specialist, and the place. */
export class ServiceError extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly place: Place = {},
  ) {
    super(message);
  }
}

export const notFound = (what: string): ServiceError =>
  new ServiceError(404, 'not_found', `There is no ${what}.`);
