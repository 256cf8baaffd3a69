import { keepPreviousData, useQuery } from "@tanstack/react-query";

import { call, type Design, type DesignFacts, type Piece, type Split } from "../../api/client";
import { useJob } from "../../job/job";
import { Button } from "../../ui/Button";
import { Fold } from "../../ui/Fold";
import { LengthField } from "../../ui/LengthField";
import { Figures, Row } from "../../ui/Reading";
import { placesOf } from "./places";
import { useMend } from "./useMend";

/** The drawings of a page at limits that are being tried; none until somebody moves a limit. */
export function useTriedPieces(design: Design | undefined, facts: DesignFacts | undefined, tried: Split | null): Piece[] | undefined {
  const query = useQuery({
    queryKey: ["pieces", facts?.artwork.picture, tried],
    enabled: Boolean(design && facts && tried),
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) =>
      call("get_pieces", { signal, path: { picture: facts!.artwork.picture }, query: tried! }),
  });
  return tried ? query.data : undefined;
}

interface Props {
  design: Design;
  facts: DesignFacts;
  pieces: Piece[];
  onTry: (split: Split | null) => void;
}

/** A page of many drawings: what joins, what is a speck, and taking it apart. */
export function PageSection({ design, facts, pieces, onTry }: Props) {
  const { mend, keep } = useMend(design);
  const { remedy } = useJob();
  const { mmPerPx } = placesOf(facts, design.longest_mm ?? 60);
  const drawing = mend.drawings.length > 0;
  const longer = Math.max(...facts.artwork.came_px);
  const joining = (mend.split.joining_px ?? 0.004 * longer) * mmPerPx;
  const despeckle = (mend.split.despeckle_px ?? 0.003 * longer) * mmPerPx;
  const px = (mm: number) => Math.round((mm / mmPerPx) * 10) / 10;
  const set = (label: string, changes: Split) => void keep(label, { split: { ...mend.split, ...changes } }).then(() => onTry(null));
  const split = () =>
    remedy({ design: design.id, remedy: { act: "split", label: `Split ${design.name}` } });
  return (
    <Fold title={drawing ? "Parts of this drawing" : "Drawings on this page"} told={`${pieces.length}`}>
      <Figures items={[{ value: pieces.length, label: drawing ? "separate parts" : "separate drawings" }]} />
      {!drawing && (
        <>
          <LengthField
            label="Join parts nearer than"
            mm={Math.round(joining * 100) / 100}
            min={0}
            max={60}
            reach={12}
            onMove={(mm) => onTry({ ...mend.split, joining_px: px(mm) })}
            onKeep={(mm) => set(`Joining distance ${mm} mm`, { joining_px: px(mm) })}
          />
          <LengthField
            label="Ignore specks under"
            mm={Math.round(despeckle * 100) / 100}
            min={0}
            max={40}
            reach={6}
            onMove={(mm) => onTry({ ...mend.split, despeckle_px: px(mm) })}
            onKeep={(mm) => set(`Despeckle limit ${mm} mm`, { despeckle_px: px(mm) })}
          />
        </>
      )}
      <Row>
        <Button disabled={pieces.length < 2} onClick={split}>
          {drawing ? `Part into ${pieces.length}` : `Split into ${pieces.length} pieces`}
        </Button>
      </Row>
    </Fold>
  );
}
