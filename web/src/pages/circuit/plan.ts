import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { Form as Checked } from "../../look/Form";

export const Form = styled(Checked)`
  display: grid;
  gap: 14px;
`;
export const Big = styled.p`
  font-size: 1.1rem;
  b {
    font-size: 1.45rem;
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
  text.trim() === "" ? null : Number(text);

type School = Schemas["SchoolView"];

/** Procedures of a kind, and the one a plan begins with: the first of one's own. */
export function schoolsOf(meta: Schemas["Meta"], kind: Schemas["Kind"]) {
  const all = meta.procedures.filter((p) => p.kind === kind);
  return { all, first: all.find((s) => s.is_own) ?? all[0] };
}

/** Where the figures of a procedure come from. */
export const sourceOf = (school: School | undefined) =>
  school
    ? `${school.source}${school.is_verified ? "" : ", unverified"}`
    : "habit, unverified";
