import { useQuery } from "@tanstack/react-query";

import { api, ask, type Shop, type SheetRecipe } from "../api/client";

export const SHOP_KEY = ["shop"];

/** The shop's stocks, printers and plotters. */
export const useShop = () => useQuery({ queryKey: SHOP_KEY, queryFn: () => ask<Shop>(api.GET("/api/shop")), staleTime: 30_000 }).data;

/** The id of the stock a sheet is of. */
export const stockId = (sheet: SheetRecipe | undefined) => sheet?.paper?.id ?? sheet?.stock ?? "a4";
