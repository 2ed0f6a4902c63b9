import { queryOptions } from '@tanstack/react-query';
import { api, type Schema, take } from '../api/client';

export type Move = Schema['PracticeMove'];

/** Everything that can be practised. */
export const practices = queryOptions({
  queryKey: ['practice'],
  queryFn: () => take(api.GET('/api/practice')),
});

/** Plays these moves. The server keeps nothing: what was done is known here alone. */
export const play = (id: string, moves: Move[]) =>
  take(api.POST('/api/practice/{id}', { params: { path: { id } }, body: { moves, seed: 1 } }));

/** A practice after its moves. */
export const practice = (id: string, moves: Move[]) =>
  queryOptions({
    queryKey: ['practice', id, moves],
    queryFn: () => play(id, moves),
    staleTime: Infinity,
  });

const key = (id: string) => `practice ${id}`;

/** The moves of a practice that was begun in this window. */
export function movesOf(id: string): Move[] {
  try {
    const kept: unknown = JSON.parse(sessionStorage.getItem(key(id)) ?? '[]');
    return Array.isArray(kept) ? (kept as Move[]) : [];
  } catch {
    return [];
  }
}

export function keepMoves(id: string, moves: Move[]) {
  sessionStorage.setItem(key(id), JSON.stringify(moves));
}
