import { Check } from "lucide-react";
import { Checkbox } from "react-aria-components";
import styled from "styled-components";
import type { Schemas } from "../../../api/client";
import { Button, Note, Stack, Together } from "../../../look/parts";
import { atSecond, onDate } from "../../../units/units";

const Choices = styled.ul`
  display: grid;
  gap: 8px;
  li {
    display: grid;
    gap: 2px;
    justify-items: start;
  }
  p {
    color: var(--soft);
  }
`;
const Given = styled.section`
  border-left: 4px solid var(--accent);
  padding: 4px 0 4px 14px;
  display: grid;
  gap: 4px;
  strong {
    font-size: var(--t-lead);
  }
`;
const Sure = styled(Checkbox)`
  display: flex;
  gap: 10px;
  align-items: center;
  min-height: 48px;
  cursor: pointer;
  svg {
    border: 2px solid var(--edge);
    border-radius: 4px;
    color: transparent;
  }
  &[data-selected] svg {
    color: inherit;
  }
`;

const lasting = (s: number) => {
  if (s < 120) return `${String(Math.round(s))} s`;
  if (s < 7200) return `${String(Math.round(s / 60))} min`;
  return s < 3 * 86_400
    ? `${String(Number((s / 3600).toFixed(1)))} h`
    : `${String(Math.round(s / 86_400))} days`;
};

/** What each column begins and ends with. */
const ends = (t: Schemas["TakenView"]) =>
  t.columns
    .map(
      (c) =>
        `${c.heading} ${String(c.first ?? "nothing")} → ${String(c.last ?? "nothing")}`,
    )
    .join(" · ");

/** What may be read in two ways, each with what it gives. */
export function Open({
  questions,
  onAnswer,
}: {
  questions: Schemas["QuestionView"][];
  onAnswer: (about: Schemas["Ask"], code: string) => void;
}) {
  return questions.map((q) => (
    <Together key={q.about}>
      <legend>
        <strong>{q.words}</strong>
      </legend>
      <Choices>
        {q.choices.map((c) => (
          <li key={c.code}>
            <Button onPress={() => onAnswer(q.about, c.code)}>{c.words}</Button>
            {c.gives && (
              <p>
                {c.gives.word}. It lasts {lasting(c.gives.lasts_s)}:{" "}
                {ends(c.gives)}
              </p>
            )}
          </li>
        ))}
      </Choices>
    </Together>
  ));
}

/** What a file gives, and what to be sure of. */
export function Gives({
  of,
  isSure,
  onSure,
}: {
  of: Schemas["TakenView"];
  isSure: boolean;
  onSure: (is: boolean) => void;
}) {
  return (
    <Stack aria-label="What this file gives">
      <Given>
        <strong>
          {of.word}: {of.headline}
        </strong>
        <p>
          {of.readings} readings,{" "}
          {of.start_ms == null
            ? "without a date"
            : `from ${onDate(of.start_ms)}, ${atSecond(of.start_ms)}`}
          , {lasting(of.lasts_s)} long
          {of.duplicates > 0 && `; ${String(of.duplicates)} rows came twice`}
          {of.bad > 0 && `; ${String(of.bad)} rows were marked as wrong`}.
        </p>
        <p>{ends(of)}</p>
      </Given>
      {of.doubts.length > 0 && (
        <Note $kind="wrong" role="alert">
          {of.doubts.join(" ")}
        </Note>
      )}
      {of.doubts.length > 0 && (
        <Sure isSelected={isSure} onChange={onSure}>
          <Check size={22} aria-hidden />
          That is how it was
        </Sure>
      )}
    </Stack>
  );
}
