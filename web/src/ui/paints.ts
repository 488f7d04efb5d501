/** What is painted with before anybody has chosen. */
export const FILL = "#c9a36aff";
export const LINE = "#23364dff";
export const WHITE = "#ffffffff";
/** Plain colours, for who has no swatches yet. */
export const PLAIN = [
  ["black", "#000000"],
  ["white", "#ffffff"],
  ["grey", "#808080"],
  ["red", "#c8452f"],
  ["orange", "#dd8a2e"],
  ["yellow", "#e9c54a"],
  ["green", "#4e8a57"],
  ["blue", "#2f6d9e"],
  ["violet", "#6a3fb5"],
  ["brown", "#7b5432"],
] as const;
