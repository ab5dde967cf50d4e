import styled from "styled-components";
import type { Schemas } from "../../api/client";

const Box = styled.fieldset`
  border: 0;
  padding: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 0 18px;
  legend { font-size: 0.88rem; font-weight: 600; color: var(--soft); }
  label { min-height: 48px; display: inline-flex; align-items: center; gap: 0.5em; }
  input { width: 24px; height: 24px; accent-color: var(--accent); }
`;

/** Things of the kit to tick; nothing where there are none. */
export function KitTicks({ legend, items, chosen, onChange }: { legend: string; items: Schemas["KitItem"][]; chosen: string[]; onChange: (ids: string[]) => void }) {
  if (!items.length) return null;
  return (
    <Box>
      <legend>{legend}</legend>
      {items.map((i) => (
        <label key={i.id}>
          <input type="checkbox" checked={chosen.includes(i.id)} onChange={(e) => onChange(e.target.checked ? [...chosen, i.id] : chosen.filter((p) => p !== i.id))} />
          {i.doc.name}
        </label>
      ))}
    </Box>
  );
}
