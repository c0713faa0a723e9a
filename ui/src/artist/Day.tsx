import type { View } from "./api";
import { clock } from "./clock";
import { Comfort } from "./Morning";
import type { Linked } from "./useLink";

/** On set: how long each edge and medium lasts today, when to look at it, and what to carry. */
export function Day({ v, link }: { v: View; link: Linked }) {
  const ready = v.run.ready_min;
  const looks = v.wear.lasts.flatMap((p) => p.touch_h.map((h) => ({ at: ready + 60 * h, piece: p.piece, name: p.name }))).sort((a, b) => a.at - b.at);
  return (
    <>
      <section>
        <h2>Look at and touch up</h2>
        {looks.length === 0 && <p>Nothing has to be touched up today by our reckoning. Look all the same.</p>}
        <ul className="plain">
          {looks.map((l) => (
            <li key={`${l.piece}${l.at}`}>
              <b className="time">{clock(l.at)}</b> the edge of {l.piece}
            </li>
          ))}
        </ul>
      </section>
      <section>
        <h2>How long it holds</h2>
        <ul>
          {v.wear.lasts.map((p) => (
            <li key={p.piece}>
              {p.words} All day untouched in {Math.round(100 * p.p_last)} of 100, touched up in {Math.round(100 * p.p_touched)}.
            </li>
          ))}
          {v.wear.media.map((m) => (
            <li key={m.name}>
              {m.name}: about {Math.round(m.median_h)} h ({m.pieces.join(", ")})
            </li>
          ))}
        </ul>
        <p className="muted">Estimates within a factor 1.5; tell us what really happened.</p>
      </section>
      <section>
        <h2>Carry</h2>
        <ul>
          {v.wear.kit.adhesive_g > 0 && <li>{Math.ceil(v.wear.kit.adhesive_g * 10) / 10} g of the adhesive, and its remover on a swab</li>}
          {v.wear.kit.colour_g > 0 && <li>{Math.ceil(v.wear.kit.colour_g * 10) / 10} g of the touch-up colours</li>}
          {v.wear.kit.powder_g > 0 && <li>{Math.ceil(v.wear.kit.powder_g * 10) / 10} g of powder</li>}
          <li>cotton swabs, a mirror, a straw, water, the first aid card</li>
        </ul>
      </section>
      <Comfort v={v} link={link} />
    </>
  );
}
