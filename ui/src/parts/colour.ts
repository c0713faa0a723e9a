/** A colour of the theme as an SVG paint: colour("gorseSoft"). */
export const colour = (name: string) => `var(--chakra-colors-${name.replace(/[A-Z]/g, (c) => `-${c.toLowerCase()}`)})`;
