import { useJob } from "../../job/job";
import { machineName, useShop } from "../../job/useShop";
import { useUnits } from "../../ui/units";

const TACK: Record<string, string> = {
  paper: "a light tack: paper tears off a strong one",
  card: "a light tack, its edges taped down",
  vinyl: "a standard tack",
  film: "a standard tack",
};

/** How a sheet of this stock is laid into this plotter. */
export function LoadingCard() {
  const { job } = useJob();
  const { length } = useUnits();
  const shop = useShop();
  const sheet = job.recipe.sheet;
  const plotter = shop?.plotters.find((each) => each.id === (sheet?.plotter?.id ?? "desk"));
  if (!plotter) return null;
  const roll = sheet?.paper?.kind === "roll";
  const tack = TACK[sheet?.paper?.face ?? "paper"];
  return (
    <section aria-label="Loading" className="mx-2.5 mb-2 rounded-md border border-rule bg-paper px-2.5 py-1.5 text-[12.5px]">
      <b className="block">Into {machineName(plotter)}</b>
      <ul className="list-disc pl-4">
        <li>
          {roll ? "The web" : "The sheet’s lower left corner"} {length(plotter.corner_x_mm ?? 0, 0)} from the left and {length(plotter.corner_y_mm ?? 0, 0)} up, square against the guide.
        </li>
        {!roll && (plotter.mat_width_mm ?? 0) > 0 && <li>On a mat with {tack}, pressed down evenly.</li>}
        <li>{sheet?.cut_only ? "Rollers just outside the stock." : `Rollers just outside the ${roll ? "print" : "paper"}, none on the art.`}</li>
        {sheet?.cut_only ? <li>Cut from this corner: there are no marks to correct how it lies.</li> : <li>{plotter.has_sensor ? "No tape over the marks, and no shine on them." : "No sensor: you set the blade over the marks."}</li>}
      </ul>
      <p className="pt-1 text-quiet">Blades cut: keep hands and hair off the moving carriage, and follow the maker&rsquo;s manual.</p>
    </section>
  );
}
