import { Box } from "@chakra-ui/react";
import { nanometres } from "./colours";

const W = 700;
const H = 150;
const LEFT = 44;

/** Two spectra over one another: where they part, another light shows it. */
export function Curves({ aim, piece, what }: { aim: number[]; piece: number[]; what: string }) {
  const top = Math.max(0.2, ...aim, ...piece) * 1.06;
  const x = (i: number) => LEFT + (i * (W - LEFT - 60)) / 35;
  const y = (v: number) => H - 24 - (v / top) * (H - 34);
  const line = (r: number[]) => r.map((v, i) => `${x(i).toFixed(1)},${y(v).toFixed(1)}`).join(" ");
  const off = aim.map((v, i) => Math.abs(v - piece[i]));
  const worst = off.indexOf(Math.max(...off));
  const words = `They part most at ${nanometres[worst]} nm: ${Math.round(100 * piece[worst])} % of the light against ${Math.round(100 * aim[worst])} %.`;
  return (
    <Box>
      <svg viewBox={`0 0 ${W} ${H}`} width="100%" role="img" aria-label={`${what} and the piece, by wavelength. ${words}`}>
        <polyline points={line(aim)} fill="none" stroke="#111" strokeWidth="2.5" />
        <polyline points={line(piece)} fill="none" stroke="#fff" strokeWidth="2.5" />
        <text x={x(35) + 8} y={y(aim[35]) - 4} fontSize="13" fill="#111">
          {what}
        </text>
        <text x={x(35) + 8} y={y(piece[35]) + 14} fontSize="13" fill="#fff" stroke="#3a3a3a" strokeWidth="2.5" paintOrder="stroke">
          piece
        </text>
        <line x1={LEFT} x2={x(35)} y1={H - 22} y2={H - 22} stroke="#333" />
        {[400, 500, 600, 700].map((nm) => (
          <text key={nm} x={x((nm - 380) / 10)} y={H - 6} fontSize="12.5" textAnchor="middle" fill="#111">
            {nm} nm
          </text>
        ))}
        {[0, 0.5, 1]
          .filter((v) => v <= top)
          .map((v) => (
            <text key={v} x={LEFT - 8} y={y(v) + 4} fontSize="12" textAnchor="end" fill="#111">
              {Math.round(100 * v)} %
            </text>
          ))}
        <line x1={x(worst)} x2={x(worst)} y1={y(aim[worst])} y2={y(piece[worst])} stroke="#111" strokeDasharray="3 2" />
      </svg>
      <Box layerStyle="small">{words}</Box>
    </Box>
  );
}
