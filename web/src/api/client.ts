import createClient from 'openapi-fetch';
import type { components, paths } from './schema';

export type Schema = components['schemas'];

/** A refusal as the server says it: what is wrong, where, and what would be right. */
export class Refusal extends Error {
  readonly where: string;
  readonly wanted: string;
  readonly status: number;

  constructor(status: number, problem: { detail?: unknown; where?: unknown; wanted?: unknown }) {
    super(typeof problem.detail === 'string' ? problem.detail : 'The server did not answer as it should.');
    this.status = status;
    this.where = typeof problem.where === 'string' ? problem.where : '';
    this.wanted = typeof problem.wanted === 'string' ? problem.wanted : '';
  }
}

export const api = createClient<paths>({ baseUrl: location.origin, fetch: (request) => fetch(request) });

/** The answer's data, or the refusal thrown. */
export async function take<T>(
  answer: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<T> {
  const { data, error, response } = await answer;
  if (data === undefined) throw new Refusal(response.status, typeof error === 'object' && error ? error : {});
  return data;
}

/**
 * Whether a page shows the failure in the place of what it has: a refusal is news, a server that does not answer takes nothing
 * away that was read before. The head of the page says that it does not.
 */
export const fails = (error: unknown, data: unknown) =>
  error instanceof Refusal || (error !== null && data === undefined);
