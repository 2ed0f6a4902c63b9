import { type Query, type QueryClient, useQueryClient } from '@tanstack/react-query';
import { useEffect } from 'react';

/**
 * Looks again. An answer that is on its way for the first time may be older than the change, and asking again does not take its
 * place: it is waited for, and then asked for once more.
 */
export function lookAgain(client: QueryClient, at: (what: unknown) => boolean) {
  const predicate = ({ queryKey: [what] }: Query) => at(what);
  for (const query of client.getQueryCache().findAll({ predicate }))
    if (query.state.data === undefined && query.state.fetchStatus === 'fetching')
      void query.promise
        ?.catch(() => null)
        .then(() => client.invalidateQueries({ queryKey: query.queryKey, exact: true }));
  void client.invalidateQueries({ predicate });
}

/** Looks again at whatever the server says has changed; one stream a tab. */
export function useLive() {
  const client = useQueryClient();
  useEffect(() => {
    const stream = new EventSource('/api/events');
    stream.addEventListener('change', (event: MessageEvent<string>) => {
      const { kind } = JSON.parse(event.data) as { kind: string };
      lookAgain(client, (what) =>
        // A job tells often how far it is: only what shows jobs looks again.
        kind === 'job' ? what === 'jobs' || what === 'media' : what !== 'systems' && what !== 'fact-keys',
      );
    });
    return () => {
      stream.close();
    };
  }, [client]);
}
