/** CIELAB under D65 as a colour a screen can show (IEC 61966-2-1), clipped. The same as craft/colour in Go. */
export function labToHex(l: number, a: number, b: number): string {
  const fy = (l + 16) / 116;
  const inverse = (f: number) => (f > 6 / 29 ? f ** 3 : ((3 * 36) / 841) * (f - 4 / 29));
  const [x, y, z] = [0.95047 * inverse(fy + a / 500), inverse(fy), 1.08883 * inverse(fy - b / 200)];
  const encode = (v: number) => {
    const c = Math.max(0, Math.min(1, v));
    return Math.round(255 * (c <= 0.0031308 ? 12.92 * c : 1.055 * c ** (1 / 2.4) - 0.055));
  };
  const rgb = [
    3.2404542 * x - 1.5371385 * y - 0.4985314 * z,
    -0.969266 * x + 1.8760108 * y + 0.041556 * z,
    0.0556434 * x - 0.2040259 * y + 1.0572252 * z,
  ];
  return `#${rgb.map((v) => encode(v).toString(16).padStart(2, "0")).join("")}`;
}
