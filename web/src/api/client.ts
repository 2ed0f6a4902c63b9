import createClient from 'openapi-fetch';
import type { components, paths } from './schema';

export type Schema = components['schemas'];

const text = (value: unknown) => (typeof value === 'string' ? value : '');

/** A refusal as the server says it: what is wrong, where, and what would be right. */
export class Refusal extends Error {
  readonly where: string;
  readonly wanted: string;
  readonly status: number;
  /** What a probe that differs would mean, if it is the same machine all the same: "another board". */
  readonly mayBe: string;
  /** The machine whose serial number a probe carries. */
  readonly whose: string;

  constructor(
    status: number,
    problem: Partial<Record<'detail' | 'where' | 'wanted' | 'mayBe' | 'whose', unknown>>,
  ) {
    super(typeof problem.detail === 'string' ? problem.detail : 'The server did not answer as it should.');
    this.status = status;
    this.where = text(problem.where);
    this.wanted = text(problem.wanted);
    this.mayBe = text(problem.mayBe);
    this.whose = text(problem.whose);
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
