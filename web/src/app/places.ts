/** The pages of the shop, with the trade's other words for them. */
export const PLACES = [
  { path: "/today", label: "Today", words: "schedule, plan, timeline, next, calendar" },
  { path: "/", label: "Jobs", words: "all jobs, list, archive" },
  { path: "/orders", label: "Orders", words: "customers, packing list, due, addresses" },
  { path: "/shelf", label: "Shelf", words: "library, designs, catalogue, stock designs" },
  { path: "/stockroom", label: "Stockroom", words: "stock, inventory, ledger, reorder, ink, blades, deliveries" },
  { path: "/figures", label: "Figures", words: "yield, slip, charts, statistics, pareto" },
  { path: "/shop", label: "Stocks and machines", words: "settings, printers, plotters, backup, hours, rates" },
];
