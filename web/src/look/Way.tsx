import { Link } from "react-router";
import styled from "styled-components";

/** A link with room for a thumb. */
export const Way = styled(Link)`
  display: inline-flex;
  align-items: center;
  min-height: 48px;
`;
