import { Delete } from "lucide-react";
import { memo } from "react";
import styled from "styled-components";
import { Button } from "../../../look/parts";
import { useSteady } from "../../../look/steady";

const Keys = styled.div`
  display: grid;
  grid-template-columns: repeat(4, 1fr);
  grid-template-areas: "k7 k8 k9 back" "k4 k5 k6 minus" "k1 k2 k3 next" "k0 k0 point log";
  gap: 8px;
  @media (max-height: 760px) {
    grid-template-columns: repeat(5, 1fr);
    grid-template-areas: "k7 k8 k9 back minus" "k4 k5 k6 point next" "k1 k2 k3 k0 log";
  }
  button {
    min-height: 48px;
    min-width: 0;
    padding: 0;
    font-family: var(--mono);
    font-size: var(--t-head);
  }
  button[aria-label="Next"] {
    font-size: var(--t-body);
  }
  & > :last-child {
    grid-area: log;
  }
`;

/** Keys of Ruhe's own: where each stands, its sign, what it is called. */
const KEYS: [area: string, key: string, name?: string][] = [
  ["k7", "7"],
  ["k8", "8"],
  ["k9", "9"],
  ["back", "back", "Delete"],
  ["k4", "4"],
  ["k5", "5"],
  ["k6", "6"],
  ["minus", "-", "Minus"],
  ["k1", "1"],
  ["k2", "2"],
  ["k3", "3"],
  ["next", "next", "Next"],
  ["k0", "0"],
  ["point", ".", "Point"],
];

const SIGNS: Record<string, React.ReactNode> = {
  back: <Delete size={24} aria-hidden />,
  next: "Next",
  "-": "−",
};

/** The keys themselves, drawn once: a digit changes none of them. */
const All = memo(({ onKey }: { onKey: (key: string) => void }) =>
  KEYS.map(([area, key, name]) => (
    <Button
      key={key}
      // Taking the focus from the field would lose the place of the next digit.
      preventFocusOnPress
      excludeFromTabOrder
      aria-label={name ?? key}
      onPress={() => onKey(key)}
      style={{ gridArea: area }}
    >
      {SIGNS[key] ?? key}
    </Button>
  )),
);

/** Big keys for a thumb, so that the device's own keyboard need not cover half the screen. */
export function Keypad({
  onKey,
  log,
}: {
  onKey: (key: string) => void;
  /** The key that logs. */
  log: React.ReactNode;
}) {
  const steady = useSteady(onKey);
  return (
    <Keys role="group" aria-label="Keys">
      <All onKey={steady} />
      {log}
    </Keys>
  );
}
