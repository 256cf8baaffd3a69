import "./index.css";

import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode, Suspense } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter, Navigate, Route, Routes } from "react-router";

import { JobsPage } from "./app/JobsPage";
import { loaded } from "./app/loaded";
import { Door } from "./app/SignInPage";
import { catchDrops } from "./ui/fileDrop";
import { AskProvider } from "./ui/Ask";
import { NoticeProvider } from "./ui/Notice";
import { UnitsProvider } from "./ui/units";

const JobPage = loaded(() => import("./app/JobPage").then((page) => page.JobPage));
const TodayPage = loaded(() => import("./app/day/TodayPage").then((page) => page.TodayPage));
const OrdersPage = loaded(() => import("./app/orders/OrdersPage").then((page) => page.OrdersPage));
const ShelfPage = loaded(() => import("./app/shelf/ShelfPage").then((page) => page.ShelfPage));
const StockroomPage = loaded(() => import("./app/stockroom/StockroomPage").then((page) => page.StockroomPage));
const FiguresPage = loaded(() => import("./app/figures/FiguresPage").then((page) => page.FiguresPage));
const ShopPage = loaded(() => import("./app/ShopPage").then((page) => page.ShopPage));

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
            <Suspense fallback={null}>
            <Routes>
              <Route path="/" element={<JobsPage />} />
              <Route path="/today" element={<TodayPage />} />
              <Route path="/orders" element={<OrdersPage />} />
              <Route path="/shelf" element={<ShelfPage />} />
              <Route path="/stockroom" element={<StockroomPage />} />
              <Route path="/figures" element={<FiguresPage />} />
              <Route path="/shop" element={<ShopPage />} />
              <Route path="/jobs/:id/:station?" element={<JobPage />} />
              <Route path="*" element={<Navigate to="/" replace />} />
            </Routes>
            </Suspense>
          </BrowserRouter>
          </Door>
          </AskProvider>
        </NoticeProvider>
      </UnitsProvider>
    </QueryClientProvider>
  </StrictMode>,
);
