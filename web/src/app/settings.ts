/** Settings by name, with the station they are at, the section that holds them, and the trade's other words for them. */
export interface Setting {
  label: string;
  path: string;
  station: number;
  section?: string;
  words?: string;
}

const at = (path: string, station: number, ...rows: [label: string, section?: string, words?: string][]): Setting[] =>
  rows.map(([label, section, words]) => ({ label, path, station, section, words }));

export const SETTINGS: Setting[] = [
  ...at("artwork", 1,
    ["Size by use", undefined, "dimensions, scale"],
    ["Background", "Background", "transparency, remove background, patches, knock out"],
    ["Frame", "Frame", "mask, clipping"],
    ["Backing shape", "Backing shape", "backing, badge"],
    ["Crop", "Crop", "trim"],
    ["Eraser", "Specks and brush", "rubber, restore"],
    ["Specks", "Specks and brush", "dust, stray dots, despeckle"],
    ["Split a page", "Drawings on this page", "separate, ungroup"],
    ["Enlarge", undefined, "upscale, resample, resolution, dpi"],
    ["Tone of the stock", undefined, "colour, brightness, contrast, profile, icc"],
    ["Rights", "Rights", "licence, copyright"],
  ),
  ...at("lines", 2,
    ["White border", undefined, "offset, contour, outline, stroke"],
    ["Cut type", undefined, "die cut, full cut, half cut, kiss cut, contour cut"],
    ["Peel margin", undefined, "easy peel, back paper, die cut"],
    ["Perforation", undefined, "perf, micro ties, tear"],
    ["Holes", "Holes", "islands, inside cuts"],
    ["Least radius", undefined, "smooth, round corners"],
    ["Bridges", undefined, "join letters, weld"],
    ["Bleed", "Bleed and colour", "overprint, spread"],
    ["Border colour", "Bleed and colour", "coloured outline"],
    ["Pull tab", undefined, "easy peel tab, ear"],
    ["Hole to hang by", undefined, "punch, eyelet, tag"],
    ["Edit by hand", "Edit by hand", "path, pen"],
    ["Edit nodes", "Edit by hand", "points, anchors, bezier"],
    ["Weed, crease and more lines", undefined, "fold, score, weeding box"],
    ["Curve tolerance", "For the knife", "node reduction, simplify"],
  ),
  ...at("sheet", 3,
    ["Stock", "Stock and filling", "paper, vinyl, media, material"],
    ["Copies", "Stock and filling", "quantity, number on a sheet, number up, imposition"],
    ["Places", "Stock and filling", "nesting, imposition, gang, step and repeat"],
    ["Gap between stickers", "Stock and filling", "spacing, gutter"],
    ["Through lines: gap, shared cuts", "Through lines", "die cut, common cut, full cut"],
    ["Order of the cut: by process, by sticker, in sections", "Order of the cut", "strips, cling, tool pass, sections"],
    ["Perimeter cut", "Perimeter cut", "block, perimeter, sheet cut, card"],
    ["Cut only", "Stock and filling", "bare stock, vinyl, film, no print, without printing, blank"],
    ["Printer, plotter and marks", "Machines and marks", "registration marks, crop marks, sensor, cutter"],
    ["Print quality", "Machines and marks", "draft, best"],
    ["Small marks", "Machines and marks", "registration marks"],
    ["Pieces by hand", "By hand", "drag, rotate, lock"],
    ["How large, how many, what it costs", "Questions", "price, quote, order, rejects, spares"],
    ["Kept together", undefined, "group, set"],
    ["Labels from a list", undefined, "csv, variable data, barcode, qr, serial numbers"],
    ["Theme sheet", undefined, "sticker sheet, card, planner"],
    ["Fill the rest of the sheet", undefined, "leftover, scrap, waste, part of a sheet, used before, kept for later"],
    ["Compare layouts", "Compare layouts", "options, side by side"],
    ["Set-ups", undefined, "presets, templates"],
  ),
  ...at("print", 4, ["Ways to print", undefined, "printer link, own print dialog, print shop, outside"], ["Print file", undefined, "pdf, export, rip"], ["Cut files", undefined, "svg, dxf, hpgl, export"], ["Printer settings", undefined, "media type"], ["Scale check", "Scale check", "true size, calibrate printer, ruler, too small"], ["Plates", "Plates for a RIP that cuts", "spot colour, separation, die line, cut contour"]),
  ...at("cut", 5, ["Load and cut", undefined, "die cut, plotter, blade, force"]),
  ...at("log", 6, ["Slip at every sticker", undefined, "accuracy, registration error, offset"]),
];
