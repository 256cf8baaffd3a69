import "./index.css";

import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter, Route, Routes } from "react-router";

import { JobPage } from "./app/JobPage";
import { JobsPage } from "./app/JobsPage";
import { ShopPage } from "./app/ShopPage";
import { Door } from "./app/SignInPage";
import { catchDrops } from "./ui/fileDrop";
import { NoticeProvider } from "./ui/Notice";
import { UnitsProvider } from "./ui/units";

const client = new QueryClient({ defaultOptions: { queries: { refetchOnWindowFocus: true, staleTime: 2000 } } });

catchDrops();

createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <QueryClientProvider client={client}>
      <UnitsProvider>
        <NoticeProvider>
          <Door>
          <BrowserRouter>
            <Routes>
              <Route path="/" element={<JobsPage />} />
              <Route path="/shop" element={<ShopPage />} />
              <Route path="/jobs/:id/:station?" element={<JobPage />} />
            </Routes>
          </BrowserRouter>
          </Door>
        </NoticeProvider>
      </UnitsProvider>
    </QueryClientProvider>
  </StrictMode>,
);
