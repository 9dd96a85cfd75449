import { QueryClientProvider } from "@tanstack/react-query";
import { createBrowserRouter, RouterProvider } from "react-router";
import { queryClient } from "./api/queries";
import { AmplifierLayout } from "./features/amplifier-layout";
import { ClaimsPage } from "./features/claims/claims-page";
import { EditAmplifierPage, NewAmplifierPage } from "./features/claims/amplifier-pages";
import { BenchesPage } from "./features/benches/benches-page";
import { ImportPage } from "./features/import/import-page";
import { IncidentsPage } from "./features/incidents/incidents-page";
import { InstrumentsPage } from "./features/instruments/instruments-page";
import { PlanPage } from "./features/plan/plan-page";
import { RunsPage } from "./features/runs/runs-page";
import { SheetPage } from "./features/sheet/sheet-page";
import { ShelfPage } from "./features/shelf/shelf-page";
import { VerdictPage } from "./features/verdict/verdict-page";
import { Broken, BrokenFrame } from "./ui/broken";
import { Frame } from "./ui/frame";
import { Nowhere } from "./ui/states";

const router = createBrowserRouter([
  {
    element: <Frame />,
    errorElement: <BrokenFrame />,
    children: [
      {
        // A page that breaks leaves the places around it as they are.
        errorElement: <Broken />,
        children: [
          { index: true, element: <ShelfPage /> },
          { path: "benches", element: <BenchesPage /> },
          { path: "instruments", element: <InstrumentsPage /> },
          { path: "incidents", element: <IncidentsPage /> },
          { path: "import", element: <ImportPage /> },
          { path: "amplifiers/new", element: <NewAmplifierPage /> },
          {
            path: "amplifiers/:id",
            element: <AmplifierLayout />,
            children: [
              { path: "claims", element: <ClaimsPage /> },
              { path: "edit", element: <EditAmplifierPage /> },
              { path: "plan", element: <PlanPage /> },
              { path: "runs", element: <RunsPage /> },
              { path: "verdict", element: <VerdictPage /> },
              { path: "sheet", element: <SheetPage /> },
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
