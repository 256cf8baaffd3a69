import type { Sheets } from "../../api/client";
import { useUnits } from "../../ui/units";

/** Where the marks let expect the least error, and where the most: a shade and a figure on each sticker, and a dashed
 *  ring where it reaches outside the marks. */
export function ErrorMap({ sheets, number }: { sheets: Sheets; number: number }) {
  const { length } = useUnits();
  const errors = sheets.sheets.flatMap((sheet) => sheet.placements.flatMap((place) => place.error_mm ?? []));
  const [least, most] = [Math.min(...errors), Math.max(...errors)];
  const share = (error: number) => (most > least ? (error - least) / (most - least) : 0);
  return (
    <g pointerEvents="none">
      {(sheets.sheets[number]?.placements ?? []).map((place, index) => {
        const error = place.error_mm;
        if (error == null) return null;
        const [x, y] = [place.x_mm + place.width_mm / 2, place.y_mm + place.height_mm / 2];
        return (
          <g key={index}>
            <circle cx={x} cy={y} r={8} fill={`rgb(${Math.round(35 + share(error) * 130)} ${Math.round(115 - share(error) * 20)} ${Math.round(74 - share(error) * 74)})`} fillOpacity=".9" />
            {place.outside && <circle cx={x} cy={y} r={9.4} fill="none" stroke="#a3301e" strokeWidth=".7" strokeDasharray="2 1.4" />}
            <text x={x} y={y + 1.3} textAnchor="middle" fontSize="3.4" fill="#fff" className="figure">{length(error, 3).split(" ")[0]}</text>
          </g>
        );
      })}
    </g>
  );
}
