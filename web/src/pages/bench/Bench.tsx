import { useTitle } from "../../look/title";
import { useState } from "react";
import { Link } from "react-router";
import styled from "styled-components";
import { Button } from "../../look/parts";
import { Additional } from "./Additional";
import { Corrected } from "./Corrected";
import { Enough } from "./Enough";
import { Masses } from "./Masses";
import { Nitrogen } from "./Nitrogen";
import { PullTime } from "./PullTime";
import { Retest } from "./Retest";
import { Rise } from "./Rise";
import { Saturation } from "./Saturation";
import { Torque } from "./Torque";
import { UnitTable } from "./UnitTable";
import { VolumeFromBottle } from "./VolumeFromBottle";

const Page = styled.div`
  max-width: 1100px;
  margin: 0 auto;
  padding: 18px 20px 60px;
  display: grid;
  grid-template-columns: 210px minmax(0, 1fr);
  gap: 8px 30px;
  header {
    grid-column: 1 / -1;
    p {
      color: var(--soft);
    }
  }
  nav ul {
    display: grid;
    gap: 4px;
  }
  nav button {
    width: 100%;
    justify-content: flex-start;
    text-align: left;
    border-color: transparent;
  }
  nav button[aria-pressed="true"] {
    background: var(--accent-wash);
    font-weight: 650;
  }
  section {
    display: grid;
    grid-template-columns: minmax(0, 1fr);
    gap: 14px;
    align-content: start;
  }
  @media (max-width: 760px) {
    grid-template-columns: minmax(0, 1fr);
    padding: 12px;
    nav ul {
      grid-template-columns: 1fr 1fr;
    }
  }
`;

const TOOLS = [
  { id: "corrected", title: "Corrected pressure", body: <Corrected /> },
  { id: "enough", title: "How long is enough", body: <Enough /> },
  { id: "nitrogen", title: "Nitrogen in the bottle", body: <Nitrogen /> },
  { id: "volume", title: "Volume from the bottle", body: <VolumeFromBottle /> },
  { id: "retest", title: "Testing again lower", body: <Retest /> },
  { id: "saturation", title: "Saturation, superheat", body: <Saturation /> },
  { id: "rise", title: "What a rise means", body: <Rise /> },
  { id: "pull", title: "How long a pull takes", body: <PullTime /> },
  { id: "additional", title: "Addition by length", body: <Additional /> },
  { id: "torque", title: "Flare torque", body: <Torque /> },
  { id: "mass", title: "Mass", body: <Masses /> },
  { id: "units", title: "Units", body: <UnitTable /> },
];

/** The same mathematics as in a job, without one. */
export default function Bench() {
  useTitle("Bench");
  const [tool, setTool] = useState(
    () => window.location.hash.slice(1) || "corrected",
  );
  const shown = TOOLS.find((t) => t.id === tool) ?? TOOLS[0];
  const choose = (id: string) => {
    window.history.replaceState(null, "", `#${id}`);
    setTool(id);
  };
  return (
    <Page>
      <header>
        <h1>Bench</h1>
        <p>
          Single sums with the mathematics of a job. Nothing here is recorded;
          what counts belongs in a <Link to="/jobs/new">job</Link>.
        </p>
      </header>
      <nav aria-label="Calculators">
        <ul>
          {TOOLS.map((t) => (
            <li key={t.id}>
              <Button
                aria-pressed={t.id === shown?.id}
                onPress={() => choose(t.id)}
              >
                {t.title}
              </Button>
            </li>
          ))}
        </ul>
      </nav>
      <section aria-label={shown?.title ?? ""} key={shown?.id}>
        <h2>{shown?.title}</h2>
        {shown?.body}
      </section>
    </Page>
  );
}
