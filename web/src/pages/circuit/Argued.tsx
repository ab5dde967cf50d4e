import { ChevronRight } from "lucide-react";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { Closed } from "./plan";

const List = styled.ul`
  display: grid;
  gap: 0;
  li {
    border-top: 1px solid var(--line);
    padding: 8px 0;
    display: grid;
    grid-template-columns: 104px minmax(0, 1fr);
    gap: 2px 12px;
  }
  li > b {
    font-weight: 650;
  }
  li.ruled_out > b,
  li.ruled_out h3 {
    color: var(--soft);
    font-weight: 500;
  }
  li.ruled_out h3 {
    text-decoration: line-through;
  }
  h3 {
    font-size: var(--t-body);
    font-weight: 620;
  }
  p {
    color: var(--soft);
    font-size: var(--t-note);
  }
  @media (max-width: 480px) {
    li {
      grid-template-columns: minmax(0, 1fr);
    }
  }
`;
const Steps = styled.ol`
  display: grid;
  li {
    border-top: 1px solid var(--line);
    padding: 8px 0;
    display: grid;
    grid-template-columns: 104px minmax(0, 1fr);
    gap: 2px 12px;
  }
  li:first-child {
    border-top: 2px solid var(--accent);
  }
  li > b {
    font-family: var(--mono);
    font-weight: 650;
  }
  h3 {
    font-size: var(--t-body);
    font-weight: 620;
  }
  p {
    color: var(--soft);
    font-size: var(--t-note);
  }
  svg {
    vertical-align: -2px;
  }
  @media (max-width: 480px) {
    li {
      grid-template-columns: minmax(0, 1fr);
    }
  }
`;
const Box = styled.section`
  min-width: 0;
  display: grid;
  gap: 6px;
  & > p {
    font-size: var(--t-note);
  }
`;

const STANDING: Record<string, string> = {
  likely: "Likely",
  possible: "Possible",
  unlikely: "Unlikely",
  ruled_out: "Ruled out",
};

/** The real actions, what settles most per minute first. */
export function NextSteps({ argued }: { argued: Schemas["ArguedView"] }) {
  if (!argued.next.length) return null;
  return (
    <Box aria-label="Next steps">
      <h2>What would settle it</h2>
      <Steps>
        {argued.next.slice(0, 5).map((a) => (
          <li key={a.code}>
            <b>{Math.round(a.minutes)} min</b>
            <div>
              <h3>{a.title}</h3>
              <p>Because {a.why}.</p>
              {a.either.map((e) => (
                <p key={e}>
                  <ChevronRight size={15} aria-hidden /> {e}
                </p>
              ))}
            </div>
          </li>
        ))}
      </Steps>
    </Box>
  );
}

function SourceList({ sources }: { sources: Schemas["SourceView"][] }) {
  return (
    <List>
      {sources.map((s) => (
        <li key={s.code} className={s.standing}>
          <b>{STANDING[s.standing] ?? s.standing}</b>
          <div>
            <h3>{s.title}</h3>
            {s.speaks_for.length > 0 && <p>For: {s.speaks_for.join(" ")}</p>}
            {s.against.length > 0 && <p>Against: {s.against.join(" ")}</p>}
          </div>
        </li>
      ))}
    </List>
  );
}

/** Each possible source with what speaks for and against it, the bound of the hold, and what the repeats said. */
export function Sources({
  argued,
  isQuiet,
}: {
  argued: Schemas["ArguedView"];
  isQuiet: boolean;
}) {
  const sources = argued.sources.filter((s) => s.code !== "still");
  const stands = (s: Schemas["SourceView"]) =>
    s.standing === "likely" || s.standing === "possible";
  const rest = sources.filter((s) => !stands(s));
  return (
    <>
      {argued.repeats.length > 0 && (
        <Box aria-label="Repeats">
          <h2>Against the one before</h2>
          {argued.repeats.map((r) => (
            <p key={r}>{r}</p>
          ))}
        </Box>
      )}
      {!isQuiet && <NextSteps argued={argued} />}
      <Box aria-label="Where it may come from">
        <h2>
          {isQuiet ? "What the hold says beside it" : "Where it may come from"}
        </h2>
        {argued.words.map((w) => (
          <p key={w}>{w}</p>
        ))}
        {!isQuiet && <SourceList sources={sources.filter(stands)} />}
        {!isQuiet && rest.length > 0 && (
          <Closed>
            <summary>Less likely, and why ({rest.length})</summary>
            <SourceList sources={rest} />
          </Closed>
        )}
      </Box>
    </>
  );
}
