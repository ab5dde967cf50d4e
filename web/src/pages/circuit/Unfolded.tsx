import styled from "styled-components";

/** What unfolds below a line. */
export const Open = styled.div`
  display: grid;
  gap: 12px;
  padding: 4px 0 12px;
  h2 {
    font-size: var(--t-body);
  }
  li {
    border-top: 1px solid var(--line);
    padding: 6px 0;
  }
  small {
    color: var(--soft);
    display: block;
  }
`;
