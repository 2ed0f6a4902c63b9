import { useQueryClient } from '@tanstack/react-query';
import { useEffect } from 'react';

/** Looks again at whatever the server says has changed; one stream a tab. */
export function useLive() {
  const client = useQueryClient();
  useEffect(() => {
    const stream = new EventSource('/api/events');
    stream.addEventListener('change', (event: MessageEvent<string>) => {
      const { kind } = JSON.parse(event.data) as { kind: string };
      void client.invalidateQueries({
        // A job tells often how far it is: only what shows jobs looks again.
        predicate: ({ queryKey: [what] }) =>
          kind === 'job' ? what === 'jobs' || what === 'media' : what !== 'systems' && what !== 'fact-keys',
      });
    });
    return () => {
      stream.close();
    };
  }, [client]);
}
