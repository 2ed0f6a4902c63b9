import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { render } from '@testing-library/react';
import { createMemoryRouter, Outlet, RouterProvider, useLocation } from 'react-router';
import { vi } from 'vitest';
import type { MachineContext } from '../dossiers/MachinePage';

/** A request that a component made. */
export interface Asked {
  method: string;
  path: string;
  query: Record<string, string>;
  body: unknown;
}

const read = (text: string): unknown => {
  try {
    return JSON.parse(text);
  } catch {
    return text || null;
  }
};

/** Answers requests by method and path, with the query where that matters; others are refused as the server refuses. */
export function serve(answers: Record<string, unknown>): Asked[] {
  const asked: Asked[] = [];
  vi.stubGlobal('fetch', async (request: Request) => {
    const url = new URL(request.url);
    const text = await request.text();
    asked.push({
      method: request.method,
      path: url.pathname,
      query: Object.fromEntries(url.searchParams),
      body: read(text),
    });
    const name = `${request.method} ${url.pathname}`;
    const answer =
      answers[name] ??
      Object.entries(answers).find(
        ([key]) => key.startsWith(`${name}?`) && url.search.includes(key.slice(name.length + 1)),
      )?.[1];
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
  sheet: { tag: 'MR-0404', version: 3, facts: [], run: { id: 'r1' } } as never,
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
export function show(view: React.ReactNode, at = '/machines/MR-0404/run', more: object = {}) {
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  const router = createMemoryRouter(
    [
      {
        path: '/machines/:tag',
        element: (
          <>
            <Outlet context={{ ...context, sheet: { ...context.sheet, ...more } }} />
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
