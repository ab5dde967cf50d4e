import { Link } from "react-router";
import styled from "styled-components";
import { Grid } from "../../look/parts";
import UnitPicks from "../../look/UnitPicks";

const Ways = styled.ul`
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(100%, 260px), 1fr));
  gap: 12px;
  li {
    border: 1.5px solid var(--edge);
    border-radius: 8px;
    padding: 6px 16px 14px;
  }
  li > a {
    display: block;
    padding: 16px 0 8px;
    min-height: 48px;
    font-size: var(--t-lead);
    font-weight: 600;
  }
`;
const Box = styled.section`
  display: grid;
  gap: 16px;
  padding: 0 8px;
`;

/** An empty Ruhe: three ways to begin, and the units that a hand is used to. */
export default function Greeting({ mayWork }: { mayWork: boolean }) {
  return (
    <Box aria-label="How to begin">
      <Ways>
        {mayWork && (
          <li>
            <Link to="/jobs/new">The first job</Link>
            <p>
              Site, kind of job, refrigerant and the lowest figure on any plate:
              then you press up.
            </p>
          </li>
        )}
        <li>
          <Link to="/drills">A drill</Link>
          <p>
            The same screens on a simulated plant that hides its fault. Nothing
            of it is among your jobs.
          </p>
        </li>
        <li>
          <Link to="/handbook">The handbook</Link>
          <p>
            How a hold, a vacuum, a charge and a sign-off go. Nine invented
            circuits to look at: <code>ruhe demo</code>, in a folder of its own.
          </p>
        </li>
      </Ways>
      <Grid $min={150}>
        <UnitPicks />
      </Grid>
    </Box>
  );
}
