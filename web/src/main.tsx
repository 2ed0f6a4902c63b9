import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { StrictMode } from 'react';
import { createRoot } from 'react-dom/client';
import { createBrowserRouter, Navigate, RouterProvider } from 'react-router';
import { Refusal } from './api/client';
import { Bench } from './bench/Bench';
import { Fleet } from './fleet/Fleet';
import { Find } from './find/Find';
import { Intake } from './intake/Intake';
import { Key } from './ladder/Key';
import { HandoverView } from './handover/HandoverView';
import { FactsView } from './dossiers/FactsView';
import { MachinePage } from './dossiers/MachinePage';
import { Orders } from './orders/Orders';
import { Wanted } from './planning/Wanted';
import { PrepareView } from './preparation/PrepareView';
import { RoutesView } from './routes/RoutesView';
import { WhereItStands } from './dossiers/WhereItStands';
import { SystemsView } from './dossiers/SystemsView';
import { RunView } from './runs/RunView';
import { Shelf } from './parts/Shelf';
import { Broken } from './shell/Broken';
import { rememberLamp } from './shell/lamp';
import { Shell } from './shell/Shell';
import './theme.css';

const client = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 5_000,
      // A refusal stays one however often it is asked for; a server that is away comes back.
      retry: (count, error) => !(error instanceof Refusal) && count < 3,
    },
  },
});

const imagesPage = async () => ({ Component: (await import('./images/Images')).Images });
const imagePage = async () => ({ Component: (await import('./images/ImagePage')).ImagePage });
const recipeEditor = async () => ({ Component: (await import('./patching/RecipeEditor')).RecipeEditor });
const recipesPage = async () => ({ Component: (await import('./patching/Recipes')).Recipes });
const romsPage = async () => ({ Component: (await import('./firmware/Roms')).Roms });
const chipsPage = async () => ({ Component: (await import('./firmware/Chips')).Chips });
const switchesPage = async () => ({
  Component: (await import('./firmware/SwitchesView')).SwitchesView,
});
const layoutPage = async () => ({ Component: (await import('./layouts/LayoutView')).LayoutView });
const identityPage = async () => ({
  Component: (await import('./identity/IdentityView')).IdentityView,
});
const boardPage = async () => ({ Component: (await import('./boards/BoardView')).BoardView });
const kitPage = async () => ({ Component: (await import('./bootKits/KitView')).KitView });
const kitsPage = async () => ({ Component: (await import('./bootKits/Kits')).Kits });
const rehearsePage = async () => ({
  Component: (await import('./rehearsal/RehearseView')).RehearseView,
});
const faultPage = async () => ({ Component: (await import('./diagnosis/FaultView')).FaultView });
const practicesPage = async () => ({ Component: (await import('./practice/Practices')).Practices });
const practicePage = async () => ({ Component: (await import('./practice/Practice')).Practice });
const planPage = async () => ({ Component: (await import('./scheduling/PlanPage')).PlanPage });
const logPage = async () => ({ Component: (await import('./logbook/LogPage')).LogPage });
const figuresPage = async () => ({ Component: (await import('./logbook/Figures')).Figures });
const duePage = async () => ({ Component: (await import('./upkeep/DuePage')).DuePage });
const backupsPage = async () => ({ Component: (await import('./backups/Backups')).Backups });
const mediaPage = async () => ({ Component: (await import('./media/Media')).Media });
const packs = async () => ({ Component: (await import('./catalogue/Catalogue')).Packs });
const editor = async () => ({ Component: (await import('./catalogue/Catalogue')).Catalogue });

const router = createBrowserRouter([
  {
    Component: Shell,
    ErrorBoundary: Broken,
    children: [
      { index: true, Component: Bench },
      { path: 'intake', Component: Intake },
      { path: 'key', Component: Key },
      { path: 'shelf', Component: Shelf },
      { path: 'shelf/images', lazy: imagesPage },
      { path: 'shelf/media', lazy: mediaPage },
      { path: 'shelf/recipes', lazy: recipesPage },
      { path: 'shelf/firmware', lazy: romsPage },
      { path: 'shelf/chips', lazy: chipsPage },
      { path: 'shelf/kits', lazy: kitsPage },
      { path: 'images/:id', lazy: imagePage },
      { path: 'images/:id/recipe/:recipe', lazy: recipeEditor },
      { path: 'fleet', Component: Fleet },
      { path: 'orders', Component: Orders },
      { path: 'wanted', Component: Wanted },
      { path: 'catalogue', element: <Navigate to="/catalogue/systems" replace /> },
      // The editor is a page for a quiet hour: it is fetched when somebody goes there.
      { path: 'catalogue/packs', lazy: packs },
      { path: 'catalogue/:kind', lazy: editor },
      { path: 'catalogue/:kind/:id', lazy: editor },
      { path: 'plan', lazy: planPage },
      { path: 'log', lazy: logPage },
      { path: 'figures', lazy: figuresPage },
      { path: 'due', lazy: duePage },
      { path: 'backups', lazy: backupsPage },
      { path: 'practice', lazy: practicesPage },
      { path: 'practice/:id', lazy: practicePage },
      { path: 'find', Component: Find },
      {
        path: 'machines/:tag',
        Component: MachinePage,
        children: [
          { index: true, Component: WhereItStands },
          { path: 'facts', Component: FactsView },
          { path: 'systems', Component: SystemsView },
          { path: 'routes', Component: RoutesView },
          { path: 'prepare', Component: PrepareView },
          { path: 'layout', lazy: layoutPage },
          { path: 'switches', lazy: switchesPage },
          { path: 'identity', lazy: identityPage },
          { path: 'kit', lazy: kitPage },
          { path: 'board', lazy: boardPage },
          { path: 'rehearse', lazy: rehearsePage },
          { path: 'fault', lazy: faultPage },
          { path: 'run', Component: RunView },
          { path: 'handover', Component: HandoverView },
        ],
      },
      {
        path: '*',
        element: <p className="py-10">There is no such page. The bench is the place to start.</p>,
      },
    ],
  },
]);

rememberLamp();
const root = document.getElementById('root');
if (root)
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={client}>
        <RouterProvider router={router} />
      </QueryClientProvider>
    </StrictMode>,
  );
