/** A number as core reads it (`parse_number`): an optional sign, digits, one point, an optional exponent. */
const GRAMMAR = /^[+-]?(\d+\.?\d*|\.\d+)(e[+-]?\d+)?$/i;

/** The one way in which the page reads a typed figure; NaN: it is none, or nothing was typed. */
export function figure(text: string): number {
  const plain = text.trim().replace("−", "-");
  const n = GRAMMAR.test(plain) ? Number(plain) : NaN;
  return Number.isFinite(n) ? n : NaN;
}

/** What is said of something typed that is no number. */
export const noNumber = (text: string) =>
  `“${text}” is not a number. Write it with a point, without thousands marks.`;

/** Something was typed, and it is no number. */
export const isWrong = (text: string) =>
  text.trim() !== "" && Number.isNaN(figure(text));
