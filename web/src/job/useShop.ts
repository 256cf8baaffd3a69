import { useQuery } from "@tanstack/react-query";

import { call, type SheetRecipe } from "../api/client";

export const SHOP_KEY = ["shop"];

/** The shop's name, habit, money, stocks, printers and plotters. */
export const useShop = () => useQuery({ queryKey: SHOP_KEY, queryFn: () => call("get_shop", {}), staleTime: 30_000 }).data;

/** A sum in the shop's money. */
export function useMoney() {
  const currency = useShop()?.currency ?? "";
  return (sum: number, decimals = 2) => `${currency}${currency ? "\u202f" : ""}${sum.toFixed(decimals)}`;
}

/** A machine by its name; where use a simulated one for it, that is said. */
export const machineName = (machine: { name: string; address?: string; simulated?: boolean }) =>
  machine.simulated !== false && !machine.address ? `${machine.name} (simulated)` : machine.name;

/** Whether a printer or a plotter of the shop is a simulated one, by its id. */
export function useIsSimulated() {
  const shop = useShop();
  return (kind: "printers" | "plotters", id: string | undefined) => {
    const found = shop?.[kind].find((each) => each.id === (id ?? "desk"));
    return Boolean(found && found.simulated !== false && !found.address);
  };
}

/** The id of the stock a sheet is of. */
export const stockId = (sheet: SheetRecipe | undefined) => sheet?.paper?.id ?? sheet?.stock ?? "a4";
