import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { render } from '@testing-library/react';
import { createMemoryRouter, Outlet, RouterProvider, useLocation } from 'react-router';
import { vi } from 'vitest';
import type { MachineContext } from '../dossiers/MachinePage';

/** A request that a component made. */
export interface Asked {
  method: string;
  path: string;
  body: unknown;
}

/** Answers requests by method and path; what is not named is refused as the server refuses it. */
export function serve(answers: Record<string, unknown>): Asked[] {
  const asked: Asked[] = [];
  vi.stubGlobal('fetch', async (request: Request) => {
    const url = new URL(request.url);
    const text = await request.text();
    asked.push({
      method: request.method,
      path: url.pathname,
      body: text ? (JSON.parse(text) as unknown) : null,
    });
    const answer = answers[`${request.method} ${url.pathname}`];
    return answer === undefined
      ? Response.json(
          { detail: 'There is none.', where: url.pathname, wanted: 'Another path.' },
          { status: 404 },
        )
      : answer instanceof Response
        ? answer.clone()
        : Response.json(answer);
  });
  return asked;
}

/** What every view of a machine sees, of a made-up one. */
const context: MachineContext = {
  sheet: { tag: 'MR-0404', version: 3, facts: [] } as never,
  all: [],
  systems: [],
  keys: [],
  aim: { system: 'tessaly-6-r2' } as never,
  open: null,
  setOpen: () => undefined,
  setAim: () => undefined,
};

function Where() {
  const { pathname, search } = useLocation();
  return <p data-testid="where">{pathname + search}</p>;
}

/** Shows a view of a machine at an address, with the queries of a fresh page. */
export function show(view: React.ReactNode, at = '/machines/MR-0404/run') {
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  const router = createMemoryRouter(
    [
      {
        path: '/machines/:tag',
        element: (
          <>
            <Outlet context={context} />
            <Where />
          </>
        ),
        children: [{ path: '*', element: view }],
      },
      {
        path: '*',
        element: (
          <>
            {view}
            <Where />
          </>
        ),
      },
    ],
    { initialEntries: [at] },
  );
  return render(
    <QueryClientProvider client={client}>
      <RouterProvider router={router} />
    </QueryClientProvider>,
  );
}
