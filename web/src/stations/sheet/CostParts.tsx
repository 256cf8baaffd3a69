import { Link } from "react-router";

import type { Schemas } from "../../api/client";
import { useMoney } from "../../job/useShop";

/** A cost opened to its parts. */
export function CostParts({ cost, open = false }: { cost: Schemas["CostOf"]; open?: boolean }) {
  const money = useMoney();
  return (
    <details open={open} className="px-3.5 py-1">
      <summary className="cursor-pointer text-act">Cost breakdown</summary>
      <table className="w-full text-[12.5px]">
        <tbody>
          {cost.parts.map((part) => (
            <tr key={part.name} className="border-b border-[#e1e8e5] last:border-b-0">
              <td className="py-0.5">{part.name}</td>
              <td className="text-quiet">{part.told}</td>
              <td className="figure text-right">{money(part.amount)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="pt-1 text-[12.5px]"><Link to="/shop" className="text-act underline underline-offset-2">Hourly rates and wear</Link></p>
    </details>
  );
}
