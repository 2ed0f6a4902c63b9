import { type Schema } from '../api/client';

/** The system that a link asks for, where the builder can serve it. */
export const wanted = (able: Schema['SystemEntry'][], id: string | null) =>
  (able.find((s) => s.id === id) ?? able[0])?.id ?? '';
