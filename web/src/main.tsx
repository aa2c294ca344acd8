import "@fontsource/atkinson-hyperlegible-mono/latin-400.css";
import "@fontsource/atkinson-hyperlegible-mono/latin-600.css";
import "@fontsource/atkinson-hyperlegible-next/latin-400.css";
import "@fontsource/atkinson-hyperlegible-next/latin-600.css";
import "@fontsource/source-serif-4/latin-600-italic.css";
import "@fontsource/source-serif-4/latin-600.css";
import "bootstrap/dist/css/bootstrap.min.css";
import "./design/tokens.css";
import "./design/bootstrap.css";
import "./design/base.css";
import { QueryClientProvider } from "@tanstack/react-query";
import { lazy, StrictMode, Suspense, type ReactNode } from "react";
import { createRoot } from "react-dom/client";
import { createBrowserRouter, RouterProvider } from "react-router";
import { queryClient } from "./api/queries";
import { Authoring } from "./authoring/Authoring";
import { Waiting } from "./design/View";
import { AboutView } from "./views/about/AboutView";
import { BenchJourney } from "./views/bench/BenchJourney";
import { ByHandView } from "./views/byhand/ByHandView";
import { AlikeView } from "./views/class/AlikeView";
import { ClassView } from "./views/class/ClassView";
import { DraftJourney } from "./views/journey/DraftJourney";
import { GroupsView } from "./views/groups/GroupsView";
import { JourneyView } from "./views/journey/JourneyView";
import { LabView } from "./views/lab/LabView";
import { LabsView } from "./views/labs/LabsView";
import { PaperView } from "./views/paper/PaperView";
import { PapersView } from "./views/papers/PapersView";
import { PingsView } from "./views/pings/PingsView";
import { PlanView } from "./views/plan/PlanView";
import { SchemeView } from "./views/scheme/SchemeView";
import { SittingsView } from "./views/sittings/SittingsView";
import { SittingView } from "./views/sittings/SittingView";
import { VersionsView } from "./views/versions/VersionsView";

// The editor is the largest part of the page and is needed in two views only.
const TextView = lazy(() => import("./views/text/TextView").then((m) => ({ default: m.TextView })));
const SheetView = lazy(() => import("./views/sheet/SheetView").then((m) => ({ default: m.SheetView })));
const BenchView = lazy(() => import("./views/bench/BenchView").then((m) => ({ default: m.BenchView })));
const editing = (view: ReactNode) => <Suspense fallback={<Waiting error={null} />}>{view}</Suspense>;

const router = createBrowserRouter([
  { path: "/", element: <LabsView /> },
  {
    path: "/labs/:slug",
    element: <Authoring />,
    children: [
      { index: true, element: <LabView /> },
      { path: "about", element: <AboutView /> },
      { path: "plan", element: <PlanView /> },
      { path: "text", element: editing(<TextView />) },
      { path: "sheets/:side/:device", element: editing(<SheetView />) },
      { path: "pings", element: <PingsView /> },
      { path: "pings/:number", element: <DraftJourney /> },
      { path: "journey", element: <DraftJourney /> },
      { path: "scheme", element: <SchemeView /> },
      { path: "bench", element: editing(<BenchView />) },
      { path: "bench/pings/:number", element: <BenchJourney /> },
    ],
  },
  { path: "/sittings", element: <SittingsView /> },
  { path: "/sittings/:number", element: <SittingView /> },
  { path: "/groups", element: <GroupsView /> },
  { path: "/groups/:number", element: <GroupsView /> },
  { path: "/labs/:slug/versions", element: <VersionsView /> },
  { path: "/labs/:slug/class", element: <ClassView /> },
  { path: "/labs/:slug/alike", element: <AlikeView /> },
  { path: "/labs/:slug/by-hand", element: <ByHandView /> },
  { path: "/labs/:slug/papers", element: <PapersView /> },
  { path: "/papers/:paper", element: <PaperView /> },
  { path: "/papers/:paper/pings/:number", element: <JourneyView /> },
  { path: "*", element: <Waiting error={new Error("There is nothing at this address.")} /> },
]);

const root = document.getElementById("root");
if (root !== null)
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={queryClient}>
        <RouterProvider router={router} />
      </QueryClientProvider>
    </StrictMode>,
  );
