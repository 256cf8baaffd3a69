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

/** The id of the stock a sheet is of. */
export const stockId = (sheet: SheetRecipe | undefined) => sheet?.paper?.id ?? sheet?.stock ?? "a4";
