/** The round: ten places in working order, with their keys. */
export const places = [
  { key: "1", name: "brief", text: "Brief" },
  { key: "2", name: "form", text: "Form" },
  { key: "3", name: "sculpt", text: "Sculpt" },
  { key: "4", name: "mould", text: "Mould" },
  { key: "5", name: "mix", text: "Mix" },
  { key: "6", name: "build", text: "Build" },
  { key: "7", name: "colour", text: "Colour" },
  { key: "8", name: "finish", text: "Finish" },
  { key: "9", name: "check", text: "Check" },
  { key: "0", name: "handover", text: "Hand over" },
] as const;

/** At the ends of the round. */
export const ends = [
  { path: "/", text: "Today" },
  { path: "/plan", text: "Plan" },
  { path: "/stores", text: "Stores" },
] as const;
