import type { Schema } from '../api/client';
import { moneyText } from '../dossiers/facts';

const purposes: Record<NonNullable<Schema['Purpose']>, string> = {
  web: 'a current browser',
  office: 'documents',
  calls: 'video calls',
  drawing: 'drawing',
};

/** A need in a few words; a wish says that it is one. */
export function needText(need: Schema['OrderNeed']): string {
  const says = {
    program: need.purpose ? purposes[need.purpose] : 'a program',
    noAccount: 'no account',
    offline: 'offline',
    unattended: 'starts by itself',
    supportUntil: `updates to ${need.until}`,
    budget: `at most ${moneyText(need.money ?? 0)}`,
  }[need.kind];
  return need.hard ? says : `${says} (wish)`;
}

/** Days until an order is due, as one says it. */
export const daysText = (days: number) =>
  days < 0 ? `late by ${daysOf(-days)}` : days === 0 ? 'due today' : `${daysOf(days)} left`;

const daysOf = (days: number) => (days === 1 ? 'one day' : `${days} days`);
