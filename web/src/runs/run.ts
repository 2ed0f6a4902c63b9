import type { Schema } from '../api/client';

/** A run as the page sees it: its sheet, its state, and how its record stands. */
export type Run = Schema['RunSheetView'];
