import { queryOptions, useMutation, useQueryClient, replaceEqualDeep } from '@tanstack/react-query';
import { api, type Schema, take } from './client';
import { learnZone } from '../shell/time';

export const health = queryOptions({
  queryKey: ['health'],
  queryFn: async () => {
    const data = await take(api.GET('/api/health'));
    learnZone(data.now);
    return data;
  },
  refetchInterval: 30_000,
});

export const factKeys = queryOptions({
  queryKey: ['fact-keys'],
  queryFn: () => take(api.GET('/api/fact-keys')),
  staleTime: Infinity,
});

export const systems = queryOptions({
  queryKey: ['systems'],
  queryFn: () => take(api.GET('/api/systems')),
});

/** What a route of a machine needs made: of the run under way, of the route that is named, else of the best to the aim. */
export const workItems = (tag: string, route?: string) =>
  queryOptions({
    queryKey: ['machine', tag, 'work-items', route ?? ''],
    queryFn: () =>
      take(
        api.GET('/api/machines/{tag}/work-items', {
          params: { path: { tag }, query: route ? { route } : {} },
        }),
      ),
  });

/** Steps that were put in other words at a machine and are offered to the catalogue. */
export const offers = queryOptions({ queryKey: ['offers'], queryFn: () => take(api.GET('/api/offers')) });

/** The machines that want hands, what is best begun first at the front. */
export const benchOrder = queryOptions({
  queryKey: ['machines', 'bench'],
  queryFn: () => take(api.GET('/api/bench')),
});

/** The plan in force, and what everybody does now by it. */
export const plans = queryOptions({ queryKey: ['plans'], queryFn: () => take(api.GET('/api/plans')) });

export const machines = queryOptions({
  queryKey: ['machines'],
  // The bench shows what stands in bays and runs first, and the latest of the shelf; the rest is found by asking.
  queryFn: () => take(api.GET('/api/machines', { params: { query: { take: 300 } } })),
  refetchInterval: 15_000,
});

/** Every machine, for pages that show them all. */
export const allMachines = queryOptions({
  queryKey: ['machines', 'all'],
  queryFn: () => take(api.GET('/api/machines', { params: { query: {} } })),
});

export const found = (find: string, most: number) =>
  queryOptions({
    queryKey: ['machines', 'found', find, most],
    queryFn: () => take(api.GET('/api/machines', { params: { query: { find, take: most } } })),
    placeholderData: (before) => before,
  });

export const machine = (tag: string) =>
  queryOptions({
    queryKey: ['machine', tag],
    queryFn: () => take(api.GET('/api/machines/{tag}', { params: { path: { tag } } })),
  });

export const assessments = (tag: string) =>
  queryOptions({
    queryKey: ['machine', tag, 'systems'],
    queryFn: () => take(api.GET('/api/machines/{tag}/systems', { params: { path: { tag } } })),
  });

export const release = (tag: string) =>
  queryOptions({
    queryKey: ['machine', tag, 'release'],
    queryFn: () => take(api.GET('/api/machines/{tag}/release', { params: { path: { tag } } })),
  });

export const soundness = (tag: string) =>
  queryOptions({
    queryKey: ['machine', tag, 'soundness'],
    queryFn: () => take(api.GET('/api/machines/{tag}/soundness', { params: { path: { tag } } })),
  });

export const memoryUpgrades = (tag: string) =>
  queryOptions({
    queryKey: ['machine', tag, 'memory-upgrades'],
    queryFn: () => take(api.GET('/api/machines/{tag}/memory-upgrades', { params: { path: { tag } } })),
  });

export const nextMeasurements = (tag: string) =>
  queryOptions({
    queryKey: ['machine', tag, 'next-measurements'],
    queryFn: () => take(api.GET('/api/machines/{tag}/next-measurements', { params: { path: { tag } } })),
  });

export const factHistory = (tag: string, key: string) =>
  queryOptions({
    queryKey: ['machine', tag, 'history', key],
    queryFn: () =>
      take(api.GET('/api/machines/{tag}/facts/{key}/history', { params: { path: { tag, key } } })),
  });

/** The layout of its drive; a changed dossier is another question. */
export const layoutOf = (tag: string, system: string, version: number) =>
  queryOptions({
    queryKey: ['machine', tag, 'layout', system, version],
    queryFn: () =>
      take(
        api.POST('/api/machines/{tag}/layout', {
          params: { path: { tag } },
          body: (system === '' ? {} : { system }) as Schema['LayoutBody'],
        }),
      ),
    placeholderData: (before) => before,
    retry: false,
  });

/** The drives of a machine and the places for them. */
export const drivesOf = (tag: string, version: number) =>
  queryOptions({
    queryKey: ['machine', tag, 'drives', version],
    queryFn: () => take(api.GET('/api/machines/{tag}/drives', { params: { path: { tag } } })),
    placeholderData: (before) => before,
  });

/** The models whose identity a machine may take for a system, the nearest first. */
export const donorsOf = (tag: string, system: string, version: number) =>
  queryOptions({
    queryKey: ['machine', tag, 'donors', system, version],
    queryFn: () =>
      take(api.GET('/api/machines/{tag}/donors', { params: { path: { tag }, query: { system } } })),
  });

/** The identities that the shop gave a machine. */
export const identitiesOf = (tag: string) =>
  queryOptions({
    queryKey: ['machine', tag, 'identities'],
    queryFn: () => take(api.GET('/api/machines/{tag}/identity', { params: { path: { tag } } })),
  });

/** What an identity changes in the machine's table. */
export const identityDiff = (tag: string, id: number) =>
  queryOptions({
    queryKey: ['machine', tag, 'identity', id],
    queryFn: () => take(api.GET('/api/machines/{tag}/identity/{id}/diff', { params: { path: { tag, id } } })),
  });

export const identityLevels = queryOptions({
  queryKey: ['identity-levels'],
  queryFn: () => take(api.GET('/api/identity-levels')),
  staleTime: Infinity,
});

/** Gives a machine an identity. */
export const useGiveIdentity = (tag: string) =>
  useWrite((body: Schema['IdentityIn']) =>
    take(api.POST('/api/machines/{tag}/identity', { params: { path: { tag } }, body })),
  );

/** The boot kit of a machine as it would be built now. */
export const kitPlanOf = (tag: string, system: string, version: number) =>
  queryOptions({
    queryKey: ['machine', tag, 'kit', system, version],
    queryFn: () => take(api.GET('/api/machines/{tag}/kit', { params: { path: { tag }, query: { system } } })),
  });

export const kits = queryOptions({
  queryKey: ['kits'],
  queryFn: () => take(api.GET('/api/kits')),
});

export const kitOf = (id: number) =>
  queryOptions({
    queryKey: ['kits', id],
    queryFn: () => take(api.GET('/api/kits/{id}', { params: { path: { id } } })),
  });

export const useBuildKit = (tag: string) =>
  useWrite((body: Schema['KitIn']) =>
    take(api.POST('/api/machines/{tag}/kit', { params: { path: { tag } }, body })),
  );

export const useMendKit = () =>
  useWrite(({ id, ...body }: { id: number } & Schema['KitRepairIn']) =>
    take(api.POST('/api/kits/{id}/repair', { params: { path: { id } }, body })),
  );

export const useConfigureKit = () =>
  useWrite(({ id, ...body }: { id: number } & Schema['KitConfigIn']) =>
    take(api.PUT('/api/kits/{id}/config', { params: { path: { id } }, body })),
  );

/** The small board of a machine, with its settings. */
export const boardOf = (tag: string, version: number) =>
  queryOptions({
    queryKey: ['machine', tag, 'board', version],
    queryFn: () => take(api.GET('/api/machines/{tag}/board', { params: { path: { tag } } })),
    retry: false,
  });

/** What counts of a text of settings. */
export const checkBoard = (board: string, text: string) =>
  queryOptions({
    queryKey: ['board', board, text],
    queryFn: () => take(api.POST('/api/boards/config/check', { body: { board, text } })),
    placeholderData: (before: Schema['BoardVerdict'] | undefined) => before,
  });

/** A text of settings with a key set. */
export const setBoard = (board: string, text: string, key: string, value: string) =>
  take(api.POST('/api/boards/config/set', { body: { board, text, key, value } }));

/** The order of its firmware's switches, for a route or for what is asked instead. */
export const switchesOf = (
  tag: string,
  route: string | null,
  wanted: Record<string, string> | null,
  version: number,
) =>
  queryOptions({
    queryKey: ['machine', tag, 'switches', route, wanted, version],
    queryFn: () =>
      take(
        api.POST('/api/machines/{tag}/firmware-plan', {
          params: { path: { tag } },
          body: {
            ...(route ? { route } : {}),
            ...(wanted ? { wanted } : {}),
          } as Schema['SwitchesBody'],
        }),
      ),
    placeholderData: (before) => before,
    retry: false,
  });

/** What the rules say to a layout that is being drawn. */
export const layoutCheck = (
  layout: Schema['LayoutSheet'],
  partitions: readonly Schema['LayoutPartition'][],
) =>
  queryOptions({
    queryKey: ['layout-check', layout.scheme, layout.sectors, partitions],
    queryFn: () =>
      take(
        api.POST('/api/layouts/check', {
          body: {
            scheme: layout.scheme,
            sectorBytes: layout.sectorBytes,
            sectors: layout.sectors,
            partitions: [...partitions],
            firmware: layout.firmware,
            reachBytes: layout.reach.bytes,
            sfdisk: null,
          },
        }),
      ),
    placeholderData: (before) => before,
  });

export const chips = queryOptions({
  queryKey: ['chips'],
  queryFn: () => take(api.GET('/api/chips')),
});

export const roms = queryOptions({
  queryKey: ['roms'],
  queryFn: () => take(api.GET('/api/roms')),
});

export const rom = (id: number) =>
  queryOptions({
    queryKey: ['roms', id],
    queryFn: () => take(api.GET('/api/roms/{id}', { params: { path: { id } } })),
    staleTime: Infinity,
  });

export const romDifference = (id: number, other: number) =>
  queryOptions({
    queryKey: ['roms', id, other],
    queryFn: () => take(api.POST('/api/roms/{id}/compare/{other}', { params: { path: { id, other } } })),
    staleTime: Infinity,
  });

export const photos = (tag: string) =>
  queryOptions({
    queryKey: ['machine', tag, 'photos'],
    queryFn: () => take(api.GET('/api/machines/{tag}/photos', { params: { path: { tag } } })),
  });

export const parts = queryOptions({
  queryKey: ['parts'],
  queryFn: () => take(api.GET('/api/parts')),
});

export const arrivals = queryOptions({
  queryKey: ['arrivals'],
  queryFn: () => take(api.GET('/api/arrivals')),
});

export const benchListener = queryOptions({
  queryKey: ['bench-listener'],
  queryFn: () => take(api.GET('/api/bench-listener')),
});

/** A write after which everything that is on the screen is asked for again. */
export function useWrite<In, Out>(write: (input: In) => Promise<Out>) {
  const client = useQueryClient();
  return useMutation({ mutationFn: write, onSuccess: () => client.invalidateQueries() });
}

/** Files as a form that the server reads as multipart. */
export function formOf(fields: Record<string, string>, files: File[], named: Record<string, File> = {}) {
  const form = new FormData();
  for (const [name, value] of Object.entries(fields)) form.append(name, value);
  for (const file of files) form.append('files', file);
  for (const [name, file] of Object.entries(named)) form.append(name, file);
  return { body: form as never, bodySerializer: (body: unknown) => body as FormData };
}

/** What routes are asked for beside the machine: another order, other weights, one system. */
export interface RouteQuery {
  order?: string;
  weights?: string;
  system?: string;
}

export const routes = (tag: string, query: RouteQuery = {}) =>
  queryOptions({
    queryKey: ['machine', tag, 'routes', query],
    queryFn: () => take(api.GET('/api/machines/{tag}/routes', { params: { path: { tag }, query } })),
    // A slider that moves must not empty the page.
    placeholderData: (before) => before,
  });

export const usualWeights = (tag: string, order?: string) =>
  queryOptions({
    queryKey: ['machine', tag, 'weights', order],
    queryFn: () =>
      take(
        api.GET('/api/machines/{tag}/weights', { params: { path: { tag }, query: order ? { order } : {} } }),
      ),
  });

export const missingRoutes = (tag: string, system: string) =>
  queryOptions({
    queryKey: ['machine', tag, 'missing', system],
    queryFn: () =>
      take(
        api.GET('/api/machines/{tag}/systems/{system}/missing-routes', { params: { path: { tag, system } } }),
      ),
  });

export const cheapest = (tag: string, system: string) =>
  queryOptions({
    queryKey: ['machine', tag, 'cheapest', system],
    queryFn: () =>
      take(api.GET('/api/machines/{tag}/cheapest', { params: { path: { tag }, query: { system } } })),
  });

export const whatIf = (tag: string, facts: Record<string, unknown>, fitted: string[]) =>
  queryOptions({
    queryKey: ['machine', tag, 'what-if', facts, fitted],
    queryFn: () =>
      take(
        api.POST('/api/machines/{tag}/what-if', {
          params: { path: { tag } },
          body: { facts: facts as never, parts: fitted },
        }),
      ),
    placeholderData: (before) => before,
  });

export const choices = queryOptions({
  queryKey: ['choices'],
  queryFn: () => take(api.GET('/api/choices')),
  staleTime: Infinity,
});

export const orders = queryOptions({
  queryKey: ['orders'],
  queryFn: () => take(api.GET('/api/orders')),
});

export const wanted = queryOptions({
  queryKey: ['wanted'],
  queryFn: () => take(api.GET('/api/wanted')),
});

export const atTheDoor = (model: string) =>
  queryOptions({
    queryKey: ['wanted', 'check', model],
    queryFn: () => take(api.GET('/api/wanted/check', { params: { query: { model } } })),
    enabled: model.trim() !== '',
    placeholderData: (before) => before,
  });

export const matrix = queryOptions({
  queryKey: ['matrix'],
  queryFn: () => take(api.GET('/api/matrix')),
});

export const openingParts = queryOptions({
  queryKey: ['matrix', 'parts'],
  queryFn: () => take(api.GET('/api/matrix/parts')),
});

export const catalogueSchema = queryOptions({
  queryKey: ['catalogue', 'schema'],
  queryFn: () => take(api.GET('/api/catalogue/schema')),
  staleTime: Infinity,
});

export const catalogueList = (kind: string) =>
  queryOptions({
    queryKey: ['catalogue', kind],
    queryFn: () => take(api.GET('/api/catalogue/{kind}', { params: { path: { kind } } })),
  });

export const catalogueSheet = (kind: string, id: string) =>
  queryOptions({
    queryKey: ['catalogue', kind, id],
    queryFn: () => take(api.GET('/api/catalogue/{kind}/{id}', { params: { path: { kind, id } } })),
  });

export const routeFiles = (tag: string, id: string) =>
  queryOptions({
    queryKey: ['machine', tag, 'routes', id, 'files'],
    queryFn: () => take(api.GET('/api/machines/{tag}/routes/{id}/files', { params: { path: { tag, id } } })),
  });

export const run = (id: string) =>
  queryOptions({
    queryKey: ['run', id],
    queryFn: () => take(api.GET('/api/runs/{id}', { params: { path: { id } } })),
    // An answer that was under way while something was said is older than what is shown: a run never steps back.
    structuralSharing: (shown, read) => (seqOf(read) < seqOf(shown) ? shown : replaceEqualDeep(shown, read)),
  });

const seqOf = (sheet: unknown) => (sheet as Schema['RunSheetView'] | undefined)?.seq ?? -1;

export const handover = (tag: string) =>
  queryOptions({
    queryKey: ['machine', tag, 'handover'],
    queryFn: () => take(api.GET('/api/machines/{tag}/handover', { params: { path: { tag } } })),
  });

/** What a machine that has left, or came back, left with, and what happened since. */
export const stay = (tag: string) =>
  queryOptions({
    queryKey: ['machine', tag, 'stay'],
    queryFn: () => take(api.GET('/api/machines/{tag}/stay', { params: { path: { tag } } })),
  });

/** The acceptance list of the machine's latest run; empty where nothing was done. */
export const acceptance = (tag: string) =>
  queryOptions({
    queryKey: ['machine', tag, 'acceptance'],
    queryFn: () => take(api.GET('/api/machines/{tag}/acceptance', { params: { path: { tag } } })),
  });

/** How well the finished machine runs, beside others of its model. */
export const measured = (tag: string) =>
  queryOptions({
    queryKey: ['machine', tag, 'measured'],
    queryFn: () => take(api.GET('/api/machines/{tag}/measured', { params: { path: { tag } } })),
  });

/** The languages that owners can read in. */
export const languages = queryOptions({
  queryKey: ['languages'],
  queryFn: () => take(api.GET('/api/languages')),
  staleTime: Infinity,
});

/** Begins a run of a route. */
export function useBegin(tag: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: Schema['Beginning']) =>
      take(api.POST('/api/machines/{tag}/runs', { params: { path: { tag } }, body })),
    onSuccess: async (begun) => {
      client.setQueryData(run(begun.id).queryKey, begun);
      await client.invalidateQueries({ queryKey: machines.queryKey });
    },
  });
}

/** Says what has happened; a lost race shows the run as it is now. */
export function useSay(id: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (body: Schema['RunEventIn']) =>
      take(api.POST('/api/runs/{id}/events', { params: { path: { id } }, body })),
    onSuccess: (now) => {
      client.setQueryData(run(id).queryKey, now);
      return client.invalidateQueries({ queryKey: machines.queryKey });
    },
    onError: () => client.invalidateQueries({ queryKey: run(id).queryKey }),
  });
}

/** The same of several steps, one after the other; what was taken before one is refused stays. */
export function useSayAll(id: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async (said: Omit<Schema['RunEventIn'], 'expectedSeq'>[]) => {
      let now = client.getQueryData(run(id).queryKey);
      for (const one of said)
        now = await take(
          api.POST('/api/runs/{id}/events', {
            params: { path: { id } },
            body: { ...one, expectedSeq: now?.seq ?? 0 },
          }),
        );
      return now;
    },
    onSettled: () =>
      Promise.all([
        client.invalidateQueries({ queryKey: run(id).queryKey }),
        client.invalidateQueries({ queryKey: machines.queryKey }),
      ]),
  });
}

/** A change to a machine: what it answers is shown at once, and every ladder is drawn again. */
function useMachineChange<T>(tag: string, change: (input: T) => Promise<Schema['MachineSheet']>) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: change,
    onSuccess: async (sheet) => {
      client.setQueryData(machine(tag).queryKey, sheet);
      await Promise.all([
        client.invalidateQueries({ queryKey: assessments(tag).queryKey }),
        client.invalidateQueries({ queryKey: stay(tag).queryKey }),
        client.invalidateQueries({ queryKey: machines.queryKey }),
      ]);
    },
  });
}

export const useEnterFact = (tag: string) =>
  useMachineChange(tag, ({ key, ...body }: { key: string; value: unknown; source: string; by: string }) =>
    take(api.PUT('/api/machines/{tag}/facts/{key}', { params: { path: { tag, key } }, body })),
  );

/** Which of its drives gets the system. */
export const useFirstDrive = (tag: string) =>
  useMachineChange(tag, (body: Schema['FirstDrive']) =>
    take(api.POST('/api/machines/{tag}/drives/first', { params: { path: { tag } }, body })),
  );

/** Takes back what people said of a fact. */
export const useUnsay = (tag: string) =>
  useMachineChange(tag, ({ key, by }: { key: string; by: string }) =>
    take(
      api.POST('/api/machines/{tag}/facts/{key}/take-back', { params: { path: { tag, key } }, body: { by } }),
    ),
  );

export const useAim = (tag: string) =>
  useMachineChange(tag, (body: Schema['Aiming']) =>
    take(api.PUT('/api/machines/{tag}/aim', { params: { path: { tag } }, body })),
  );

export const usePlace = (tag: string) =>
  useMachineChange(tag, (body: Schema['Placing']) =>
    take(api.PUT('/api/machines/{tag}/bay', { params: { path: { tag } }, body })),
  );

/** The word under which a machine that was taken out of an order stands. */
const nobodys = 'nobody';

/** Sets a machine aside for an order, or takes it out. */
export const useAside = () =>
  useWrite(({ tag, order, by }: { tag: string; order: string | null; by: string }) =>
    take(
      api.PUT('/api/machines/{tag}/facts/{key}', {
        params: { path: { tag, key: 'order.name' } },
        body: { value: order ?? nobodys, source: 'said in the shop', by },
      }),
    ),
  );

export const useLeave = (tag: string) =>
  useMachineChange(tag, (body: Schema['Leaving']) =>
    take(api.PUT('/api/machines/{tag}/left', { params: { path: { tag } }, body })),
  );

export const fitting = (id: string) =>
  queryOptions({
    queryKey: ['orders', id, 'fitting'],
    queryFn: () => take(api.GET('/api/orders/{id}/fitting', { params: { path: { id } } })),
  });

export interface Probe {
  tag: string;
  files: File[];
  /** Whether the machine is here already. */
  known: boolean;
  /** Who says that it is the same machine although something differs. */
  sameBy?: string;
}

export const logOf = (tag: string) =>
  queryOptions({
    queryKey: ['machine', tag, 'log'],
    queryFn: () => take(api.GET('/api/machines/{tag}/log', { params: { path: { tag } } })),
  });

export const probesOf = (tag: string) =>
  queryOptions({
    queryKey: ['machines', tag, 'bundles'],
    queryFn: () => take(api.GET('/api/machines/{tag}/bundles', { params: { path: { tag } } })),
  });

export const useTakeBack = (tag: string) =>
  useWrite(({ id, by }: { id: number; by: string }) =>
    take(
      api.POST('/api/machines/{tag}/bundles/{id}/take-back', {
        params: { path: { tag, id } },
        body: { by },
      }),
    ),
  );

/** Takes a machine in, or a further probe of a known one. */
export function useImport() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async ({ tag, files, known, sameBy }: Probe) => {
      const send = formOf(known ? (sameBy ? { sameBy } : {}) : { assetTag: tag }, files);
      return known
        ? take(api.POST('/api/machines/{tag}/bundles', { params: { path: { tag } }, ...send }))
        : take(api.POST('/api/machines/import', send));
    },
    onSuccess: () => client.invalidateQueries(),
  });
}

/** A route walked by reckoning: where it would stop, how long it takes, what may go wrong. */
export const rehearsal = (tag: string, route: string) =>
  queryOptions({
    queryKey: ['machine', tag, 'rehearsal', route],
    queryFn: () =>
      take(
        api.POST('/api/machines/{tag}/routes/{route}/rehearsal', {
          params: { path: { tag, route } },
          body: { walks: 10_000, seed: 1, if: null },
        }),
      ),
    retry: false,
  });

/** Whole ways in the twin of a machine, the latest first. */
export const wholeWays = (tag: string) =>
  queryOptions({
    queryKey: ['jobs', 'wholeWay', tag],
    queryFn: () => take(api.GET('/api/jobs', { params: { query: { kind: 'wholeWay', tag } } })),
  });
