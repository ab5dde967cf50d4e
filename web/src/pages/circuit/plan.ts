import styled from "styled-components";
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
