import "./index.css";

import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { lazy, StrictMode, Suspense } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter, Navigate, Route, Routes } from "react-router";

import { JobPage } from "./app/JobPage";
import { JobsPage } from "./app/JobsPage";
import { OrdersPage } from "./app/orders/OrdersPage";
import { ShelfPage } from "./app/shelf/ShelfPage";
import { StockroomPage } from "./app/stockroom/StockroomPage";
import { TodayPage } from "./app/day/TodayPage";
import { ShopPage } from "./app/ShopPage";
import { Door } from "./app/SignInPage";
import { catchDrops } from "./ui/fileDrop";
import { AskProvider } from "./ui/Ask";
import { NoticeProvider } from "./ui/Notice";
import { UnitsProvider } from "./ui/units";

/** What draws plots is large, and loaded when a plot is wanted. */
const FiguresPage = lazy(() => import("./app/figures/FiguresPage").then((page) => ({ default: page.FiguresPage })));

const client = new QueryClient({ defaultOptions: { queries: { refetchOnWindowFocus: true, staleTime: 2000 } } });

catchDrops();

createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <QueryClientProvider client={client}>
      <UnitsProvider>
        <NoticeProvider>
          <AskProvider>
          <Door>
          <BrowserRouter>
            <Routes>
              <Route path="/" element={<JobsPage />} />
              <Route path="/today" element={<TodayPage />} />
              <Route path="/orders" element={<OrdersPage />} />
              <Route path="/shelf" element={<ShelfPage />} />
              <Route path="/stockroom" element={<StockroomPage />} />
              <Route path="/figures" element={<Suspense fallback={null}><FiguresPage /></Suspense>} />
              <Route path="/shop" element={<ShopPage />} />
              <Route path="/jobs/:id/:station?" element={<JobPage />} />
              <Route path="*" element={<Navigate to="/" replace />} />
            </Routes>
          </BrowserRouter>
          </Door>
          </AskProvider>
        </NoticeProvider>
      </UnitsProvider>
    </QueryClientProvider>
  </StrictMode>,
);
