import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";

import { call, type Print } from "../../api/client";
import { Button } from "../../ui/Button";
import { useNotice } from "../../ui/Notice";
import { Row } from "../../ui/Reading";
import { useUnits } from "../../ui/units";
import { useCard } from "../print/CardSection";

/** Ink that is wet still smears under the rollers; once it is dry the sheet may be laminated, and its film is counted. */
export function FilmOverPrint({ print }: { print: Print }) {
  const { view: card } = useCard();
  const { size } = useUnits();
  const tell = useNotice();
  const client = useQueryClient();
  const path = { print_id: print.id };
  const key = ["film", print.id, card?.card.dry_min];
  const { data: film } = useQuery({ queryKey: key, queryFn: ({ signal }) => call("get_film", { path, signal }) });
  const [now, setNow] = useState(() => Date.now());
  useEffect(() => {
    const timer = setInterval(() => setNow(Date.now()), 20_000);
    return () => clearInterval(timer);
  }, []);
  if (!film?.dry_at) return null;
  const dry = Date.parse(film.dry_at);
  const at = new Date(dry).toLocaleTimeString(undefined, { hour: "2-digit", minute: "2-digit" });
  const say = (laminated: boolean) =>
    void call("put_film", { path, body: { laminated } })
      .then((next) => client.setQueryData(key, next))
      // The blade has to go through the film too.
      .then(() => Promise.all(["settings", "totals"].map((which) => client.invalidateQueries({ queryKey: [which] }))))
      .catch(tell);
  if (now < dry && !film.laminated)
    return <p className="px-3.5 pb-1 text-look">By the card of {card?.printer ?? "the printer"} the ink is dry at {at}, in {Math.ceil((dry - now) / 60_000)} min. Laminate and cut it then.</p>;
  if (!film.film_mm) return null;
  return (
    <>
      <Row>
        <span className="text-quiet">{film.laminated ? "Laminated" : `Dry since ${at}; film`} <span className="figure text-[12.5px]">{size(film.film_mm[0], film.film_mm[1], 0)}</span></span>
        <Button onClick={() => say(!film.laminated)}>{film.laminated ? "It is not" : "It is laminated"}</Button>
      </Row>
      {film.outside > 0 && (
        <p className="px-3.5 pb-1 text-[12.5px] text-look">
          {film.outside === 1 ? "One sticker reaches" : `${film.outside} stickers reach`} out of the film, which leaves the marks bare: {film.outside === 1 ? "it stays" : "they stay"} partly without film.
        </p>
      )}
    </>
  );
}
