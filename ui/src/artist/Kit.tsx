import type { View } from "./api";
import { Rings } from "./Page";

const amount = (n: number, unit: string) => (n > 0 ? `${Math.round(n * 10) / 10} ${unit}` : "");

/** What is in it, how it should have arrived, what it is to look like, and whom to ring. */
export function Kit({ v, token }: { v: View; token: string }) {
  const at = `/api/artist/${token}`;
  return (
    <>
      {v.received_at && (
        <p className="good" data-testid="received">
          Received, signed by <b>{v.signed_name}</b>.
        </p>
      )}
      {v.note && <p>{v.note}</p>}
      <section>
        <h2>Whom to ring</h2>
        <Rings v={v} />
      </section>
      <section>
        <h2>Pieces</h2>
        {v.copies.map((c) => (
          <details key={c.code}>
            <summary>
              <span className="tag">{c.code}</span> {c.name}, {c.where}
            </summary>
            <p>
              Holds with {c.adhesive || "nothing"}; comes off with {c.remover || "what the workshop says"}.
            </p>
            <ul>
              {c.layers.map((l) => (
                <li key={l}>{l}</li>
              ))}
            </ul>
            <p className="muted">Made from: {c.lots.join(" · ")}</p>
            {c.signed.map((s) => (
              <p className="look" key={s}>
                Signed by a lead: {s}
              </p>
            ))}
          </details>
        ))}
      </section>
      <section>
        <h2>With them</h2>
        <ul className="plain items">
          {v.items.map((i) => (
            <li key={i.kind + i.name}>
              <span>
                {i.name}
                {i.lot && <span className="muted"> lot {i.lot}</span>}
                {i.missing && <b className="no"> missing: {i.missing}</b>}
              </span>
              <b>{amount(i.amount, i.unit)}</b>
            </li>
          ))}
        </ul>
      </section>
      {v.parcels.length > 0 && (
        <section>
          <h2>How it should have come</h2>
          <ul>
            {v.parcels.map((p) => (
              <li key={p.piece}>
                <b>{p.piece}</b>: {p.says.support}; {p.says.powder}; {p.says.orientation}. Edges lie flat, nothing pressed or stuck.
                {p.says.warnings.length > 0 && <b> Mind: {p.says.warnings.join(", ")}.</b>}
              </li>
            ))}
          </ul>
        </section>
      )}
      {v.pictures.length > 0 && (
        <section>
          <h2>What it is to look like</h2>
          <div className="shots">
            {v.pictures.map((p) => (
              <figure key={p.sha256}>
                <img src={`${at}/pictures/${p.sha256}`} alt={`${p.piece}, ${p.view || "seen"}: ${p.caption}`} loading="lazy" />
                <figcaption>
                  {p.piece} {p.view} {p.caption}
                </figcaption>
              </figure>
            ))}
          </div>
        </section>
      )}
      {v.copies.some((c) => c.touch_ups.length > 0) && (
        <section>
          <h2>Touch-up colours</h2>
          <ul className="plain">
            {v.copies.flatMap((c) =>
              c.touch_ups.map((t) => (
                <li key={c.code + t.name} className="row">
                  <svg width="44" height="22" aria-hidden="true">
                    <rect width="44" height="22" fill={t.hex} stroke="currentColor" />
                  </svg>
                  <span>
                    {t.name}, {t.medium.toLowerCase()} <span className="muted">{t.place}</span>
                  </span>
                </li>
              )),
            )}
          </ul>
        </section>
      )}
      <section>
        <h2>On paper</h2>
        <p className="links">
          <a href={`${at}/sheet.pdf`}>Sheet</a> <a href={`${at}/run.pdf`}>Run of the morning</a> <a href={`${at}/performer.pdf`}>Wearer's card</a>{" "}
          <a href={`${at}/removal.pdf`}>Taking it off</a> <a href={`${at}/packing.pdf`}>Packing list</a> <a href={`${at}/day.ics`}>Calendar</a>
        </p>
      </section>
    </>
  );
}
