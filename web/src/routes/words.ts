import type { Schema } from '../api/client';
import { systemName } from '../dossiers/facts';
import { useMachine } from '../dossiers/MachinePage';

export const support = (route: Schema['Route']) =>
  route.school === 'retire'
    ? 'ends'
    : route.supportMonths === null
      ? 'no end set'
      : `${route.supportMonths} months`;

export const percent = (share: number) =>
  `${share > 0 && share < 0.01 ? (share * 100).toFixed(1) : Math.round(share * 100)} %`;

/** The name of a route's system. */
export const routeName = (route: Schema['Route'], systems: Schema['SystemEntry'][]) =>
  route.system === null ? 'Parts and recycling' : systemName(systems.find((s) => s.id === route.system));

/** The same on the pages of a machine. */
export function useRouteName() {
  const { systems } = useMachine();
  return (route: Schema['Route']) => routeName(route, systems);
}

export const schoolSays: Record<Schema['School'], string> = {
  comply: 'Meets the rules: switches and parts, and it stays supported.',
  patch: 'Changes the installer so that its gates do not check.',
  spoof: 'Takes the identity of a later model of its line.',
  reflash: 'Replaces the firmware.',
  lighten: 'Takes a light or browser-first system: fast and updated.',
  stay: 'Keeps the system that is on it until its support ends.',
  retire: 'Ends the machine: sound parts to the shelf, the rest to recycling.',
};
