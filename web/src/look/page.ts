import styled from "styled-components";

/** A page of lists, one column wide. */
export const Page = styled.div`
  max-width: 980px;
  margin: 0 auto;
  padding: 18px 20px 60px;
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 16px;
  & > p { color: var(--soft); max-width: 68ch; }
`;
/** A form that opens above a list. */
export const Form = styled.form`
  display: grid;
  gap: 12px;
  border-top: 2px solid var(--ink);
  padding-top: 14px;
`;
