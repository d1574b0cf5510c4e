import '@fontsource-variable/archivo/wdth.css';
import './styles.css';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { createRoot } from 'react-dom/client';
import { createBrowserRouter, Link, RouterProvider } from 'react-router';
import { Toaster } from 'sonner';
import { ApiProblem } from './api/client.ts';
import { Broken } from './parts/Broken.tsx';
import { Empty } from './parts/Empty.tsx';
import { Gate } from './people/Gate.tsx';
import { JoinPage } from './people/SignIn.tsx';
import { CallSheetPage } from './sheet/CallSheetPage.tsx';

const queries = new QueryClient({
  // an answer that refuses stands; only a server that does not answer, or is in trouble, is asked again
  defaultOptions: { queries: { refetchOnWindowFocus: false, retry: (times, error) => !(error instanceof ApiProblem) && times < 3 } },
});

/** While a page's own part of the application comes. */
const COMING = <Empty title="Opening …" />;

const router = createBrowserRouter([
  { path: '/', element: <CallSheetPage />, errorElement: <Broken /> },
  {
    path: '/setup/:id',
    lazy: () => import('./stage/StagePage.tsx').then(({ StagePage }) => ({ Component: StagePage })),
    hydrateFallbackElement: COMING,
    errorElement: <Broken />,
  },
  {
    // a shot's light is a setup
    path: '/shot/:id',
    lazy: () => import('./stage/StagePage.tsx').then(({ StagePage }) => ({ Component: StagePage })),
    hydrateFallbackElement: COMING,
    errorElement: <Broken />,
  },
  {
    path: '/sequence/:id',
    lazy: () => import('./sequence/SequencePage.tsx').then(({ SequencePage }) => ({ Component: SequencePage })),
    hydrateFallbackElement: COMING,
    errorElement: <Broken />,
  },
  {
    path: '/proofs',
    lazy: () => import('./proofs/ProofsPage.tsx').then(({ ProofsPage }) => ({ Component: ProofsPage })),
    hydrateFallbackElement: COMING,
    errorElement: <Broken />,
  },
  {
    path: '/kits',
    lazy: () => import('./kits/KitsPage.tsx').then(({ KitsPage }) => ({ Component: KitsPage })),
    hydrateFallbackElement: COMING,
    errorElement: <Broken />,
  },
  {
    path: '/turntable/:id',
    lazy: () => import('./turntable/TurntablePage.tsx').then(({ TurntablePage }) => ({ Component: TurntablePage })),
    hydrateFallbackElement: COMING,
    errorElement: <Broken />,
  },
  {
    path: '/lab/balance',
    lazy: () => import('./lab/balance/BalanceFilePage.tsx').then(({ BalanceFilePage }) => ({ Component: BalanceFilePage })),
    hydrateFallbackElement: COMING,
    errorElement: <Broken />,
  },
  {
    path: '/lab/:id/balance',
    lazy: () => import('./lab/balance/BalancePage.tsx').then(({ BalancePage }) => ({ Component: BalancePage })),
    hydrateFallbackElement: COMING,
    errorElement: <Broken />,
  },
  ...['/lab', '/lab/:id'].map((path) => ({
    path,
    lazy: () => import('./lab/LabPage.tsx').then(({ LabPage }) => ({ Component: LabPage })),
    hydrateFallbackElement: COMING,
    errorElement: <Broken />,
  })),
  { path: '/join', element: <JoinPage />, errorElement: <Broken /> },
  {
    path: '/people',
    lazy: () => import('./people/PeoplePage.tsx').then(({ PeoplePage }) => ({ Component: PeoplePage })),
    hydrateFallbackElement: COMING,
    errorElement: <Broken />,
  },
  {
    path: '*',
    element: (
      <Empty
        title="There is no such page"
        action={
          <Link className="btn btn-primary btn-sm" to="/">
            All setups
          </Link>
        }
      >
        The address is wrong, or the page was taken away.
      </Empty>
    ),
  },
]);

createRoot(document.getElementById('root')!).render(
  <QueryClientProvider client={queries}>
    <Gate>
      <RouterProvider router={router} />
    </Gate>
    <Toaster
      position="bottom-right"
      theme="dark"
      duration={6000}
      toastOptions={{ style: { borderRadius: 4, fontFamily: 'var(--font-sans)' } }}
    />
  </QueryClientProvider>,
);
