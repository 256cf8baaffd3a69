import { select } from "d3-selection";
import { zoom, zoomIdentity, type ZoomBehavior, type ZoomTransform } from "d3-zoom";
import { Crosshair, Maximize2, Ruler, ZoomIn, ZoomOut } from "lucide-react";
import { type KeyboardEvent, type PointerEvent, type ReactNode, useCallback, useEffect, useId, useLayoutEffect, useRef, useState } from "react";

import type { Finding } from "../api/client";
import { useUnits } from "../ui/units";
import { type Hand, KeyboardPlace, type Point } from "./Hand";
import { LineKey, type Layer, useLayers } from "./LineKey";
import { Loupe } from "./Loupe";
import { Measure } from "./Measure";
import { Pins } from "./Pins";
import { Rulers, RULER_LEFT, RULER_TOP } from "./Rulers";

const CSS_PX_PER_MM = 96 / 25.4;
/** Kept free of the subject: ruler and label above, the key below, which takes two rows on a narrow table. */
const ROOM_ABOVE = RULER_TOP + 42;
const roomBelow = (width: number) => (width < 560 ? 118 : 72);

export interface Box {
  x: number;
  y: number;
  width: number;
  height: number;
}

interface Props {
  /** What is to be seen, mm. */
  box: Box;
  /** Fits again when this changes. */
  subject: string;
  label: string;
  layers: Layer[];
  /** Layers that are not shown until somebody asks for them. */
  hiddenAtFirst?: string[];
  pins?: Finding[];
  /** A tool of the station that takes the pointer; the wheel and the middle button still move the table. */
  hand?: Hand | null;
  /** Nodes of a line, mm: the loupe shows them and how far they are. */
  nodes?: Point[];
  /** Draws in mm; gets the ids of the layers that are shown. */
  children: (shown: Set<string>) => ReactNode;
}

/** Art and lines at true scale, with rulers, zoom, pan, a loupe and a measure. */
/** What takes a drag itself, so that the table does not move with it. */
const isStill = (target: EventTarget | null) => target instanceof Element && target.closest("[data-table=still]") !== null;

export function LightTable({ box, subject, label, layers, hiddenAtFirst, pins = [], hand, nodes, children }: Props) {
  const { length } = useUnits();
  const frame = useRef<HTMLDivElement>(null);
  const svg = useRef<SVGSVGElement>(null);
  const behaviour = useRef<ZoomBehavior<SVGSVGElement, unknown> | null>(null);
  const [size, setSize] = useState({ width: 0, height: 0 });
  const [transform, setTransform] = useState<ZoomTransform>(zoomIdentity);
  const [pointer, setPointer] = useState<[number, number] | null>(null);
  const [tool, setTool] = useState<"none" | "loupe" | "measure">("none");
  const { shown, toggle } = useLayers(layers, hiddenAtFirst);
  const content = useId();
  const [held, setHeld] = useState(false);
  const [keyed, setKeyed] = useState<Point | null>(null);
  const inHand = useRef(hand);
  inHand.current = hand;
  const hasHand = Boolean(hand);
  useEffect(() => {
    setKeyed(null);
    if (hasHand) setTool("none");
  }, [hasHand]);

  useLayoutEffect(() => {
    const element = frame.current!;
    const watch = new ResizeObserver(() => setSize({ width: element.clientWidth, height: element.clientHeight }));
    watch.observe(element);
    return () => watch.disconnect();
  }, []);

  useEffect(() => {
    const made = zoom<SVGSVGElement, unknown>()
      .scaleExtent([0.3, 200])
      .filter((event: MouseEvent) => event.type === "wheel" || (inHand.current ? event.button === 1 : !event.ctrlKey && !event.button && !isStill(event.target)))
      .on("zoom", (event: { transform: ZoomTransform }) => setTransform(event.transform));
    behaviour.current = made;
    const on = select(svg.current!);
    on.call(made).on("dblclick.zoom", null);
    return () => void on.on(".zoom", null);
  }, []);

  const show = useCallback((next: ZoomTransform) => {
    if (svg.current && behaviour.current) select(svg.current).call(behaviour.current.transform, next);
  }, []);

  const at = useCallback(
    (scale: number) => {
      const middle = [(size.width + RULER_LEFT) / 2, (size.height + ROOM_ABOVE - roomBelow(size.width)) / 2] as const;
      return zoomIdentity
        .translate(middle[0] - (box.x + box.width / 2) * scale, middle[1] - (box.y + box.height / 2) * scale)
        .scale(scale);
    },
    [box.x, box.y, box.width, box.height, size.width, size.height],
  );

  const fit = useCallback(() => {
    if (!size.width || !box.width) return;
    const room = [size.width - RULER_LEFT - 48, size.height - ROOM_ABOVE - roomBelow(size.width)] as const;
    show(at(Math.max(0.3, Math.min(room[0] / box.width, room[1] / box.height))));
  }, [at, show, size, box.width, box.height]);

  const fitted = useRef("");
  useEffect(() => {
    const wanted = `${subject} ${size.width}×${size.height}`;
    if (size.width && box.width && fitted.current !== wanted) {
      fitted.current = wanted;
      fit();
    }
  }, [subject, size, box.width, fit]);

  const step = useCallback((by: number) => {
    if (svg.current && behaviour.current) select(svg.current).call(behaviour.current.scaleBy, by);
  }, []);

  const toMm = (at: Point): Point => [(at[0] - transform.x) / transform.k, (at[1] - transform.y) / transform.k];
  const placeOf = (event: PointerEvent<SVGSVGElement>): Point => {
    const box = event.currentTarget.getBoundingClientRect();
    return [event.clientX - box.left, event.clientY - box.top];
  };

  const onKeyDown = (event: KeyboardEvent) => {
    const pans: Record<string, [number, number]> = {
      ArrowLeft: [40, 0], ArrowRight: [-40, 0], ArrowUp: [0, 40], ArrowDown: [0, -40],
    };
    const pan = pans[event.key];
    if (event.ctrlKey || event.metaKey) return;
    if (hand?.onKey?.(event)) return event.preventDefault();
    if (hand && pan) {
      const from = keyed ?? [(size.width + RULER_LEFT) / 2, size.height / 2];
      const step = event.shiftKey ? 1 / 40 : 1 / 4;
      const to: Point = [from[0] - pan[0] * step, from[1] - pan[1] * step];
      setKeyed(to);
      hand.onMove?.(toMm(to), false);
    } else if (hand && keyed && (event.key === "Enter" || event.key === " ")) {
      hand.onDown?.(toMm(keyed), event.shiftKey);
      hand.onUp?.(toMm(keyed));
    } else if (pan) show(zoomIdentity.translate(transform.x + pan[0], transform.y + pan[1]).scale(transform.k));
    else if (event.key === "+" || event.key === "=") step(1.25);
    else if (event.key === "-") step(0.8);
    else if (event.key === "0") fit();
    else if (event.key === "l") setTool(tool === "loupe" ? "none" : "loupe");
    else if (event.key === "m") setTool(tool === "measure" ? "none" : "measure");
    else if (event.key === "Escape") setTool("none");
    else return;
    event.preventDefault();
  };

  const tools = [
    { id: "out", title: "Smaller (−)", icon: <ZoomOut size={15} />, act: () => step(0.8) },
    { id: "in", title: "Larger (+)", icon: <ZoomIn size={15} />, act: () => step(1.25) },
    { id: "fit", title: "Fit (0)", icon: <Maximize2 size={15} />, act: fit },
    { id: "loupe", title: "Loupe (L)", icon: <Crosshair size={15} />, act: () => setTool(tool === "loupe" ? "none" : "loupe") },
    { id: "measure", title: "Measure (M)", icon: <Ruler size={15} />, act: () => setTool(tool === "measure" ? "none" : "measure") },
  ];

  return (
    <div
      ref={frame}
      role="region"
      aria-label={`Light table: ${label}`}
      tabIndex={0}
      onKeyDown={onKeyDown}
      className="relative h-full overflow-hidden bg-table select-none focus-visible:-outline-offset-2"
    >
      <svg
        ref={svg}
        // A layer of its own: without a graphics card a slider that moves beside it would have it drawn again.
        className={`absolute inset-0 size-full will-change-transform ${hand ? "" : tool === "measure" ? "cursor-crosshair" : "cursor-grab active:cursor-grabbing"}`}
        style={hand ? { cursor: hand.cursor ?? "crosshair" } : undefined}
        onPointerDown={(event) => {
          if (!hand || event.button !== 0) return;
          event.currentTarget.setPointerCapture(event.pointerId);
          setHeld(true);
          setKeyed(null);
          hand.onDown?.(toMm(placeOf(event)), event.shiftKey);
        }}
        onPointerMove={(event) => {
          const at = placeOf(event);
          setPointer(at);
          hand?.onMove?.(toMm(at), held);
        }}
        onPointerUp={(event) => {
          if (!hand || !held) return;
          setHeld(false);
          hand.onUp?.(toMm(placeOf(event)));
        }}
        onPointerLeave={() => setPointer(null)}
        onDoubleClick={(event) => {
          const frame = event.currentTarget.getBoundingClientRect();
          hand?.onDouble?.(toMm([event.clientX - frame.left, event.clientY - frame.top]));
        }}
      >
        <defs>
          <pattern id={`${content}-dots`} width="20" height="20" patternUnits="userSpaceOnUse">
            <circle cx="1" cy="1" r=".8" fill="#d3dcd7" />
          </pattern>
        </defs>
        <rect width="100%" height="100%" fill={`url(#${content}-dots)`} />
        <g transform={`translate(${transform.x} ${transform.y}) scale(${transform.k})`}>
          <g id={content}>{children(shown)}</g>
          {hand?.draw && <g pointerEvents="none">{hand.draw(keyed ? toMm(keyed) : pointer && toMm(pointer), 1 / transform.k)}</g>}
        </g>
        {hand && keyed && <KeyboardPlace at={keyed} />}
        <Pins findings={pins} transform={transform} />
        {tool === "loupe" && pointer && <Loupe at={pointer} content={content} transform={transform} nodes={nodes} />}
        {tool === "measure" && <Measure transform={transform} pointer={pointer} svg={svg} />}
        <Rulers size={size} transform={transform} pointer={pointer} />
      </svg>
      {!hand && <div className="figure absolute top-8 right-3 flex items-center gap-2 rounded-[5px] border border-rule bg-paper/95 px-2 py-0.5 text-[11px] text-quiet">
        {label}
        <button type="button" title="True scale" className="rounded px-1 hover:bg-act-pale" onClick={() => show(at(CSS_PX_PER_MM))}>
          {Math.round((transform.k / CSS_PX_PER_MM) * 100)} %
        </button>
        {pointer && tool === "none" && (
          <span className="hidden xl:inline">
            {length((pointer[0] - transform.x) / transform.k, 1)}, {length((pointer[1] - transform.y) / transform.k, 1)}
          </span>
        )}
      </div>}
      {hand && (
        <p className="absolute top-8 right-3 left-9 w-fit rounded-[5px] border border-act bg-act-pale px-2 py-0.5 text-[12.5px]">{hand.hint}</p>
      )}
      <div className="absolute bottom-3 left-9 flex max-w-[calc(100%-3rem)] flex-wrap gap-2">
        <LineKey layers={layers} shown={shown} onToggle={toggle} />
        <div className="flex items-center rounded-md border border-rule bg-paper/95 p-1">
          {tools.map((each) => (
            <button
              key={each.id}
              type="button"
              title={each.title}
              aria-label={each.title}
              aria-pressed={each.id === "loupe" || each.id === "measure" ? tool === each.id : undefined}
              onClick={each.act}
              className="rounded p-1.5 hover:bg-act-pale aria-pressed:bg-act aria-pressed:text-white"
            >
              {each.icon}
            </button>
          ))}
        </div>
      </div>
    </div>
  );
}
