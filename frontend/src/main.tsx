import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { lazy, StrictMode, Suspense } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter, Route, Routes } from "react-router";

import { patiently } from "./api/loading";
import { Gate } from "./people/Gate";
import { PiecesPage } from "./pieces/PiecesPage";
import "./styles.css";
import { Boundary } from "./ui/Boundary";
import { NoticeBoard } from "./ui/notices";
import { RoomBanner } from "./ui/RoomBanner";

const StoragePage = lazy(patiently(() => import("./pieces/StoragePage")));
const PrintersPage = lazy(patiently(() => import("./pieces/PrintersPage")));
const BedsPage = lazy(patiently(() => import("./beds/BedsPage")));
const BedPage = lazy(patiently(() => import("./beds/BedPage")));
const PrinterPage = lazy(patiently(() => import("./printer/PrinterPage")));
const VersionsPage = lazy(patiently(() => import("./versions/VersionsPage")));
const AccountPage = lazy(patiently(() => import("./people/AccountPage")));
const PeoplePage = lazy(patiently(() => import("./people/PeoplePage")));
const BenchPage = lazy(patiently(() => import("./bench/BenchPage")));
const queries = new QueryClient({ defaultOptions: { queries: { retry: 1, refetchOnWindowFocus: true } } });
const root = document.getElementById("root");
if (!root) throw new Error("The page has no root.");

createRoot(root).render(
  <StrictMode>
    <QueryClientProvider client={queries}>
      <div className="flex h-full flex-col">
        <div className="min-h-0 grow overflow-x-auto">
          <BrowserRouter>
            <Suspense fallback={null}>
              <Boundary what="The page">
                <Gate>
                  <Routes>
                    <Route path="/" element={<PiecesPage />} />
                    <Route path="/storage" element={<StoragePage />} />
                    <Route path="/printers" element={<PrintersPage />} />
                    <Route path="/beds" element={<BedsPage />} />
                    <Route path="/beds/:planId" element={<BedPage />} />
                    <Route path="/printer" element={<PrinterPage />} />
                    <Route path="/bench/:pieceId" element={<BenchPage />} />
                    <Route path="/bench/:pieceId/versions" element={<VersionsPage />} />
                    <Route path="/account" element={<AccountPage />} />
                    <Route path="/people" element={<PeoplePage />} />
                    <Route path="*" element={<PiecesPage />} />
                  </Routes>
                </Gate>
              </Boundary>
            </Suspense>
          </BrowserRouter>
        </div>
        <RoomBanner />
      </div>
      <NoticeBoard />
    </QueryClientProvider>
  </StrictMode>,
);
