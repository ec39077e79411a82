/** Addresses. Stations are loaded when they are opened. */
import { createBrowserRouter, useRouteError } from 'react-router';
import { HomePage } from '../home/home-page.tsx';
import { Frame } from './frame.tsx';

export const router = createBrowserRouter([
  {
    path: '/',
    element: <Frame />,
    errorElement: <Broken />,
    hydrateFallbackElement: <p className="work quiet">Opening</p>,
    children: [
      { index: true, element: <HomePage /> },
      {
        path: 'images/:lineId?/:tab?',
        lazy: async () => ({ Component: (await import('../images/images-page.tsx')).ImagesPage }),
      },
      {
        path: 'packages/capture/:captureId/:view?',
        lazy: async () => ({ Component: (await import('../packages/capture/capture-page.tsx')).CapturePage }),
      },
      {
        path: 'packages/rules/:name?',
        lazy: async () => ({ Component: (await import('../packages/capture/rules-page.tsx')).RulesPage }),
      },
      {
        path: 'packages/clashes',
        lazy: async () => ({ Component: (await import('../packages/clashes/clashes-page.tsx')).ClashesPage }),
      },
      {
        path: 'packages/certificates',
        lazy: async () => ({
          Component: (await import('../packages/trust/certificates-page.tsx')).CertificatesPage,
        }),
      },
      {
        path: 'packages/options/:suiteId?/:sheet?',
        lazy: async () => ({
          Component: (await import('../option-sheets/option-sheets-page.tsx')).OptionSheetsPage,
        }),
      },
      {
        path: 'packages/bulk/:what?',
        lazy: async () => ({ Component: (await import('../bulk/bulk-page.tsx')).BulkPage }),
      },
      {
        path: 'packages/installed/:id?',
        lazy: async () => ({ Component: (await import('../installed/installed-page.tsx')).InstalledPage }),
      },
      {
        path: 'packages/shares',
        lazy: async () => ({ Component: (await import('../packages/shares/shares-page.tsx')).SharesPage }),
      },
      {
        path: 'packages/:packageId?/:tab?',
        lazy: async () => ({ Component: (await import('../packages/packages-page.tsx')).PackagesPage }),
      },
      {
        path: 'first-desktops',
        lazy: async () => ({
          Component: (await import('../first-desktops/first-page.tsx')).FirstDesktopsPage,
        }),
      },
      {
        path: 'pools/datastores',
        lazy: async () => ({
          Component: (await import('../pools/storage/datastores-page.tsx')).DatastoresPage,
        }),
      },
      {
        path: 'pools/streaming',
        lazy: async () => ({
          Component: (await import('../pools/streaming/streaming-page.tsx')).StreamingPage,
        }),
      },
      {
        path: 'pools/chassis',
        lazy: async () => ({
          Component: (await import('../pools/chassis/chassis-page.tsx')).ChassisPage,
        }),
      },
      {
        path: 'pools/directory',
        lazy: async () => ({
          Component: (await import('../pools/directory/directory-page.tsx')).DirectoryPage,
        }),
      },
      {
        path: 'pools/:poolId?/:tab?',
        lazy: async () => ({ Component: (await import('../pools/pools-page.tsx')).PoolsPage }),
      },
      {
        path: 'rollouts/calendar',
        lazy: async () => ({
          Component: (await import('../rollouts/calendar/calendar-page.tsx')).CalendarPage,
        }),
      },
      {
        path: 'rollouts/ahead',
        lazy: async () => ({ Component: (await import('../rollouts/ahead/ahead-page.tsx')).AheadPage }),
      },
      {
        path: 'rollouts/blends/:poolId?',
        lazy: async () => ({ Component: (await import('../rollouts/blends/blends-page.tsx')).BlendsPage }),
      },
      {
        path: 'rollouts/rings/:orderId?',
        lazy: async () => ({ Component: (await import('../rollouts/rings/rings-page.tsx')).RingsPage }),
      },
      {
        path: 'rollouts/drift',
        lazy: async () => ({ Component: (await import('../rollouts/drift/drift-page.tsx')).DriftPage }),
      },
      {
        path: 'rollouts/promises',
        lazy: async () => ({
          Component: (await import('../rollouts/promises/promises-page.tsx')).PromisesPage,
        }),
      },
      {
        path: 'rollouts/staged/:stagedId',
        lazy: async () => ({ Component: (await import('../rollouts/rollouts-page.tsx')).RolloutsPage }),
      },
      {
        path: 'rollouts/:rolloutId/record',
        lazy: async () => ({ Component: (await import('../rollouts/record/record-page.tsx')).RecordPage }),
      },
      {
        path: 'rollouts/:rolloutId?',
        lazy: async () => ({ Component: (await import('../rollouts/rollouts-page.tsx')).RolloutsPage }),
      },
      {
        path: 'access',
        lazy: async () => ({ Component: (await import('../access/access-page.tsx')).AccessPage }),
      },
      {
        path: 'estate/capacity',
        lazy: async () => ({ Component: (await import('../estate/capacity-page.tsx')).CapacityPage }),
      },
      {
        path: 'estate',
        lazy: async () => ({ Component: (await import('../estate/estate-page.tsx')).EstatePage }),
      },
      { path: '*', element: <NotHere /> },
    ],
  },
]);

function NotHere() {
  return (
    <div className="work">
      <h1 className="answer">There is nothing at this address.</h1>
      <p className="under-answer">
        <a href="/">Go to the line</a>
      </p>
    </div>
  );
}

function Broken() {
  const error = useRouteError();
  return (
    <div className="work">
      <h1 className="answer">This screen broke.</h1>
      <p className="under-answer">
        {error instanceof Error ? error.message : 'No reason was given.'} Reload the page; nothing that was
        saved is lost.
      </p>
    </div>
  );
}
