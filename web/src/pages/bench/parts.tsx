import styled from "styled-components";
import { Trouble } from "../../look/parts";
import { Pick } from "../../look/Pick";
import { useUnits } from "../../units/units";

/** The air of a calculation that asks for none, Pa. */
export const AIR = 101_325;

export const Answer = styled.div`
  border-left: 4px solid var(--accent);
  padding: 4px 0 4px 14px;
  min-height: 54px;
  b {
    font-family: var(--mono);
    font-size: var(--t-head);
  }
  p {
    color: var(--soft);
  }
`;

export const Table = styled.ul`
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(150px, 1fr));
  gap: 2px 16px;
  font-family: var(--mono);
  span {
    color: var(--soft);
  }
`;
export const Source = styled.p`
  color: var(--soft);
  font-size: var(--t-note);
`;

export const Wait = ({ error, text }: { error: Error | null; text: string }) =>
  error ? <Trouble of={error} /> : <p>{text}</p>;

/** Which refrigerant; the list is the one of Ruhe's own tables. */
export function Which({
  value,
  onChange,
}: {
  value: string;
  onChange: (name: string) => void;
}) {
  const { meta } = useUnits();
  return (
    <Pick
      label="Refrigerant"
      value={value}
      onChange={onChange}
      options={meta.refrigerants.map((r) => ({
        id: r.name,
        text: `${r.name} (${r.safety_class})`,
      }))}
    />
  );
}
