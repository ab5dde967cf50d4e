import styled from "styled-components";

export type Shape = "holds" | "losing" | "falling" | "open" | "notch" | "none";

const COLOUR: Record<Shape, string> = {
  holds: "--holds",
  losing: "--losing",
  falling: "--falling",
  open: "--open",
  notch: "--notch",
  none: "--none",
};

export const colourOf = (shape: string) =>
  `var(${COLOUR[shape as Shape] ?? "--none"})`;

/** The shape beside a verdict's word: two level bars, bars with one tilted, a wedge, an open ring, a notch. */
export function Mark({ shape, size = 28 }: { shape: string; size?: number }) {
  const stroke = {
    fill: "none",
    stroke: colourOf(shape),
    strokeWidth: 4.5,
    strokeLinecap: "round" as const,
    strokeLinejoin: "round" as const,
  };
  return (
    <svg
      width={size}
      height={size}
      viewBox="0 0 32 32"
      aria-hidden
      focusable="false"
    >
      {shape === "holds" && <path {...stroke} d="M4 11h24M4 21h24" />}
      {shape === "losing" && <path {...stroke} d="M4 10h24M4 18l24 7" />}
      {shape === "falling" && (
        <path {...stroke} fill={colourOf(shape)} d="M4 7l24 19H4z" />
      )}
      {shape === "open" && <path {...stroke} d="M23 7.5a11 11 0 1 0 4 8.5" />}
      {shape === "notch" && <path {...stroke} d="M3 22h8V9h10v13h8" />}
      {shape === "none" && <path {...stroke} d="M8 16h16" />}
    </svg>
  );
}

const Line = styled.span<{ $shape: string; $size: number }>`
  display: inline-flex;
  align-items: center;
  gap: 0.4em;
  color: ${(p) => colourOf(p.$shape)};
  font-size: ${(p) => p.$size}rem;
  font-weight: 700;
  line-height: 1.15;
`;

export function Word({
  word,
  shape,
  size = 1,
}: {
  word: string;
  shape: string;
  size?: number;
}) {
  return (
    <Line $shape={shape} $size={size}>
      <Mark shape={shape} size={Math.round(size * 22)} />
      {word}
    </Line>
  );
}
