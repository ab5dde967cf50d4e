import styled from "styled-components";
import { Form as Checked } from "../form/Form";

/** A page of lists, one column wide. */
export const Page = styled.div`
  max-width: 980px;
  margin: 0 auto;
  padding: 18px 20px 60px;
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 16px;
  & > p {
    color: var(--soft);
    max-width: 68ch;
  }
`;
/** A form that opens above a list. */
export const Form = styled(Checked)`
  display: grid;
  gap: 12px;
  border-top: 2px solid var(--ink);
  padding-top: 14px;
`;
/** One thing of a list: what it is, and what can be done with it. */
export const Row = styled.li`
  border-top: 1px solid var(--line);
  padding: 10px 0;
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 2px 14px;
  align-items: center;
  p {
    color: var(--soft);
    font-size: var(--t-note);
  }
  strong {
    font-weight: 620;
  }
  svg {
    vertical-align: -3px;
  }
`;
