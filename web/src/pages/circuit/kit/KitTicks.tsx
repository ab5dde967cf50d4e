import { Check } from "lucide-react";
import { ToggleButton } from "react-aria-components";
import styled from "styled-components";
import type { Schemas } from "../../../api/client";
import { Named, Row } from "../../../look/parts";

const Tick = styled(ToggleButton)`
  min-height: 48px;
  min-width: 48px;
  padding: 0 0.9em;
  display: inline-flex;
  align-items: center;
  gap: 0.4em;
  border: 1.5px solid var(--edge);
  border-radius: 8px;
  background: transparent;
  color: var(--ink);
  cursor: pointer;
  &[data-selected] {
    background: var(--accent-wash);
    border-color: var(--accent);
    font-weight: 600;
  }
`;

/** Things of the kit to tick; nothing where there are none. */
export function KitTicks({
  legend,
  items,
  chosen,
  onChange,
}: {
  legend: string;
  items: Schemas["KitItem"][];
  chosen: string[];
  onChange: (ids: string[]) => void;
}) {
  if (!items.length) return null;
  return (
    <div role="group" aria-label={legend}>
      <Named elementType="span">{legend}</Named>
      <Row>
        {items.map((i) => {
          const isIn = chosen.includes(i.id);
          return (
            <Tick
              key={i.id}
              isSelected={isIn}
              onChange={(on) =>
                onChange(
                  on ? [...chosen, i.id] : chosen.filter((p) => p !== i.id),
                )
              }
            >
              {isIn && <Check size={18} aria-hidden />}
              {i.doc.name}
            </Tick>
          );
        })}
      </Row>
    </div>
  );
}
