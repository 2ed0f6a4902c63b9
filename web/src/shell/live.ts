import { useQueryClient } from '@tanstack/react-query';
import { useEffect } from 'react';

/** Looks again at whatever the server says has changed; one stream a tab. */
export function useLive() {
  const client = useQueryClient();
  useEffect(() => {
    const stream = new EventSource('/api/events');
    stream.addEventListener('change', () => {
      void client.invalidateQueries({
        predicate: (query) => query.queryKey[0] !== 'systems' && query.queryKey[0] !== 'fact-keys',
      });
    });
    return () => {
      stream.close();
    };
  }, [client]);
}
