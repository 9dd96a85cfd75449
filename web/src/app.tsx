import { QueryClientProvider } from "@tanstack/react-query";
import { lazy, Suspense, type ComponentType } from "react";
import { createBrowserRouter, Navigate, Outlet, RouterProvider } from "react-router";
import { queryClient } from "./api/query-client";
import { AmplifierLayout } from "./features/amplifier-layout";
import { SetUpLayout } from "./features/set-up-layout";
import { Shell } from "./features/shell";
import { Broken, BrokenFrame } from "./ui/broken";
import { Nowhere } from "./ui/states";

/** A page that is fetched when it is first gone to. */
function page<Module>(load: () => Promise<Module>, pick: (module: Module) => ComponentType) {
  const Page = lazy(async () => ({ default: pick(await load()) }));
  return <Page />;
}

const router = createBrowserRouter([
  // Screens of their own, with nothing around them: over a camera's picture, and on the wall.
  {
    path: "screens",
    errorElement: <BrokenFrame />,
    element: (
      <Suspense fallback={null}>
        <Outlet />
      </Suspense>
    ),
    children: [
      {
        path: ":id/overlay",
        element: page(
          () => import("./features/screens/overlay-page"),
          (m) => m.OverlayPage,
        ),
      },
      {
        path: ":id/wall",
        element: page(
          () => import("./features/screens/wall-page"),
          (m) => m.WallPage,
        ),
      },
    ],
  },
  {
    element: <Shell />,
    errorElement: <BrokenFrame />,
    children: [
      {
        // A page that breaks leaves the places around it as they are.
        errorElement: <Broken />,
        children: [
          {
            index: true,
            element: page(
              () => import("./features/shelf/shelf-page"),
              (m) => m.ShelfPage,
            ),
          },
          {
            path: "set-up",
            element: <SetUpLayout />,
            children: [
              { index: true, element: <Navigate to="/set-up/benches" replace /> },
              {
                path: "benches",
                element: page(
                  () => import("./features/benches/benches-page"),
                  (m) => m.BenchesPage,
                ),
              },
              {
                path: "instruments",
                element: page(
                  () => import("./features/instruments/instruments-page"),
                  (m) => m.InstrumentsPage,
                ),
              },
              {
                path: "backups",
                element: page(
                  () => import("./features/upkeep/backups-page"),
                  (m) => m.BackupsPage,
                ),
              },
            ],
          },
          // Addresses that were kept from before there was a Set-up.
          { path: "benches", element: <Navigate to="/set-up/benches" replace /> },
          { path: "instruments", element: <Navigate to="/set-up/instruments" replace /> },
          {
            path: "compare",
            element: page(
              () => import("./features/compare/compare-page"),
              (m) => m.ComparePage,
            ),
          },
          {
            path: "compare/lessons",
            element: page(
              () => import("./features/lessons/lessons-page"),
              (m) => m.LessonsPage,
            ),
          },
          {
            path: "incidents",
            element: page(
              () => import("./features/incidents/incidents-page"),
              (m) => m.IncidentsPage,
            ),
          },
          {
            path: "import",
            element: page(
              () => import("./features/import/import-page"),
              (m) => m.ImportPage,
            ),
          },
          {
            path: "amplifiers/new",
            element: page(
              () => import("./features/claims/amplifier-pages"),
              (m) => m.NewAmplifierPage,
            ),
          },
          {
            path: "amplifiers/:id",
            element: <AmplifierLayout />,
            children: [
              {
                path: "claims",
                element: page(
                  () => import("./features/claims/claims-page"),
                  (m) => m.ClaimsPage,
                ),
              },
              {
                path: "edit",
                element: page(
                  () => import("./features/claims/amplifier-pages"),
                  (m) => m.EditAmplifierPage,
                ),
              },
              {
                path: "record",
                element: page(
                  () => import("./features/record/record-page"),
                  (m) => m.RecordPage,
                ),
              },
              {
                path: "sessions",
                element: page(
                  () => import("./features/retests/sessions-page"),
                  (m) => m.SessionsPage,
                ),
              },
              {
                path: "plan",
                element: page(
                  () => import("./features/plan/plan-page"),
                  (m) => m.PlanPage,
                ),
              },
              {
                path: "runs",
                element: page(
                  () => import("./features/runs/runs-page"),
                  (m) => m.RunsPage,
                ),
              },
              {
                path: "traces",
                element: page(
                  () => import("./features/traces/traces-page"),
                  (m) => m.TracesPage,
                ),
              },
              {
                path: "verdict",
                element: page(
                  () => import("./features/verdict/verdict-page"),
                  (m) => m.VerdictPage,
                ),
              },
              {
                path: "publish",
                element: page(
                  () => import("./features/publish/publish-page"),
                  (m) => m.PublishPage,
                ),
              },
              {
                path: "publish/sheet",
                element: page(
                  () => import("./features/sheet/sheet-page"),
                  (m) => m.SheetPage,
                ),
              },
              // Kept from before there was more to publish than a sheet.
              { path: "sheet", element: <Navigate to="../publish/sheet" relative="path" replace /> },
            ],
          },
          { path: "*", element: <Nowhere /> },
        ],
      },
    ],
  },
]);

export function App() {
  return (
    <QueryClientProvider client={queryClient}>
      <RouterProvider router={router} />
    </QueryClientProvider>
  );
}
