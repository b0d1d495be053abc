import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { createBrowserRouter, Navigate, RouterProvider } from "react-router";
import { Problem } from "./api/client";
import { JoinPage } from "./consolidated/JoinPage";
import "./index.css";
import { FirstBook } from "./shell/FirstBook";
import { Shell } from "./shell/Shell";
import { AskingPage } from "./authorities/AskingPage";
import { BringHomePage } from "./authorities/BringHomePage";
import { StartAsking } from "./authorities/StartAsking";
import { ReconciliationPage } from "./reconciliations/ReconciliationPage";
import { StartReconciliation } from "./reconciliations/StartReconciliation";
import { LinkagePage } from "./linkage/LinkagePage";
import { StartLinkage } from "./linkage/StartLinkage";
import { CrosswalkPage } from "./spellings/CrosswalkPage";
import { SpellingsPage } from "./spellings/SpellingsPage";
import { AmendPage } from "./tables/AmendPage";
import { AsidePage } from "./tables/AsidePage";
import { BesidePage } from "./tables/BesidePage";
import { BookPage } from "./tables/BookPage";
import { CheckPage } from "./watches/CheckPage";
import { WatchesPage } from "./watches/WatchesPage";
import { ComparisonPage } from "./comparison/ComparisonPage";
import { DuplicatesPage } from "./duplicates/DuplicatesPage";
import { JournalPage } from "./tables/JournalPage";
import { ComparePage } from "./tables/ComparePage";
import { FiguresPage } from "./tables/FiguresPage";
import { KeysPage } from "./tables/KeysPage";
import { ReadingPage } from "./tables/ReadingPage";
import { RefreshPage } from "./tables/RefreshPage";
import { RegisterPage } from "./tables/RegisterPage";
import { RowsPage } from "./tables/RowsPage";
import { ShapePage } from "./tables/ShapePage";
import { TallyPage } from "./tables/TallyPage";
import { TidyPage } from "./tables/TidyPage";
import { CrossPage } from "./tables/CrossPage";
import { ConditionsPage } from "./conditions/ConditionsPage";
import { BringInPage } from "./bringin/BringInPage";

const client = new QueryClient({
  defaultOptions: {
    queries: {
      refetchOnWindowFocus: false,
      // What the server refuses it will refuse again; only a lost connection is worth another try.
      retry: (times, error) => times < 2 && error instanceof Problem && error.document.status === 0,
    },
  },
});

const router = createBrowserRouter([
  { path: "/", element: <FirstBook /> },
  {
    path: "/books/:book",
    element: <Shell />,
    children: [
      { index: true, element: <BookPage /> },
      { path: "uploads/:uploads", element: <BringInPage /> },
      { path: "join", element: <JoinPage /> },
      { path: "crosswalk", element: <CrosswalkPage /> },
      { path: "linkages/new", element: <StartLinkage /> },
      { path: "linkages/:linkage", element: <LinkagePage /> },
      { path: "reconciliations/new", element: <StartReconciliation /> },
      { path: "reconciliations/:reconciliation", element: <ReconciliationPage /> },
      { path: "askings/new", element: <StartAsking /> },
      { path: "askings/:asking", element: <AskingPage /> },
      { path: "tables/:table/identify", element: <BringHomePage /> },
      { path: "tables/:table", element: <RegisterPage /> },
      { path: "tables/:table/cross", element: <CrossPage /> },
      { path: "tables/:table/conditions", element: <ConditionsPage /> },
      { path: "tables/:table/rows", element: <RowsPage /> },
      { path: "tables/:table/journal", element: <JournalPage /> },
      { path: "tables/:table/tally", element: <TallyPage /> },
      { path: "tables/:table/amend", element: <AmendPage /> },
      { path: "tables/:table/refresh", element: <RefreshPage /> },
      { path: "tables/:table/beside", element: <BesidePage /> },
      { path: "tables/:table/compare", element: <ComparePage /> },
      { path: "tables/:table/figures", element: <FiguresPage /> },
      { path: "tables/:table/keys", element: <KeysPage /> },
      { path: "tables/:table/shape", element: <ShapePage /> },
      { path: "tables/:table/reading", element: <ReadingPage /> },
      { path: "tables/:table/tidy", element: <TidyPage /> },
      { path: "tables/:table/spellings", element: <SpellingsPage /> },
      { path: "tables/:table/duplicates", element: <DuplicatesPage /> },
      { path: "tables/:table/aside/:number", element: <AsidePage /> },
      { path: "tables/:table/watches", element: <WatchesPage /> },
      { path: "tables/:table/check", element: <CheckPage /> },
      { path: "comparison", element: <ComparisonPage /> },
    ],
  },
  { path: "*", element: <Navigate to="/" replace /> },
]);

createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <QueryClientProvider client={client}>
      <RouterProvider router={router} />
    </QueryClientProvider>
  </StrictMode>,
);
