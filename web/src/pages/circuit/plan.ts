import { figure } from "../../units/typed";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { Form as Checked } from "../../form/Form";
import { preferred } from "../../units/procedures";

export const Form = styled(Checked)`
  display: grid;
  gap: 14px;
`;
export const Big = styled.p`
  font-size: var(--t-lead);
  b {
    font-size: var(--t-head);
    font-family: var(--mono);
  }
`;
export const Closed = styled.details`
  border-top: 1px solid var(--line);
  & > *:not(summary) {
    margin-bottom: 12px;
  }
  summary {
    cursor: pointer;
    min-height: 48px;
    padding: 12px 0;
    font-weight: 600;
  }
`;

/** A typed number, or null when the field is empty. What is neither has been refused before. */
export const number = (text: string) =>
  text.trim() === "" ? null : figure(text);

type School = Schemas["SchoolView"];

/** Procedures of a kind that are offered, and the one a plan begins with: the one that was chosen for it, else the
 * first
 * of one's own. */
export function schoolsOf(meta: Schemas["Meta"], kind: Schemas["Kind"]) {
  const { first, hidden } = preferred();
  const every = meta.procedures.filter((p) => p.kind === kind);
  const offered = every.filter((p) => !hidden.includes(p.code));
  const all = offered.length > 0 ? offered : every;
  return {
    all,
    first:
      all.find((s) => s.code === first[kind]) ??
      all.find((s) => s.is_own) ??
      all[0],
  };
}

/** Of the plans that are ready, the one of the procedure that a plan begins with. */
export function begun(
  meta: Schemas["Meta"],
  kind: Schemas["Kind"],
  ready: Schemas["TestInput"][],
) {
  const { first } = schoolsOf(meta, kind);
  return ready.find((t) => t.plan.school === first?.code);
}

/** What a procedure is worth, under its name. */
export const worth = (school: School | undefined) =>
  school
    ? `${school.gives_up ? `${school.gives_up}. ` : ""}${
        school.is_verified
          ? `From ${school.source}, checked.`
          : `From ${school.source}: rule of thumb; check the maker’s manual.`
      }`
    : "Say below where it comes from.";
