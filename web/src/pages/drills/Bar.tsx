import { Pause } from "lucide-react";
import { useEffect, useRef, useState, type ReactNode } from "react";
import {
  Dialog,
  DialogTrigger,
  Modal,
  ModalOverlay,
} from "react-aria-components";
import { Link, useNavigate } from "react-router";
import styled from "styled-components";
import type { Schemas } from "../../api/client";
import { useDrill, useSpeed } from "../../api/drills";
import { Button, Primary, Quiet } from "../../look/parts";
import { HAND, useInHand } from "../../look/screen";
import { Decide } from "./Decide";
import { Hands } from "./Hands";
import { sinceCame } from "./since";

const Strip = styled.section`
  position: sticky;
  top: 0;
  z-index: 3;
  background: var(--paper);
  border-bottom: 4px double var(--edge);
  padding: 6px 20px;
  display: grid;
  gap: 4px;
  @media ${HAND} {
    /* It scrolls away: the pad is what the hand needs. */
    position: static;
    padding: 4px 12px;
  }
  @media print {
    position: static;
    button,
    a {
      display: none;
    }
  }
`;
const Line = styled.div`
  display: flex;
  flex-wrap: wrap;
  gap: 4px 10px;
  align-items: center;
  h2 {
    font-size: var(--t-body);
    font-weight: 650;
  }
  a {
    min-height: 48px;
    min-width: 48px;
    display: inline-flex;
    align-items: center;
  }
`;
const Stamp = styled.b`
  border: 2px solid var(--ink);
  border-radius: 4px;
  padding: 0 0.45em;
  letter-spacing: 0.04em;
`;
const Time = styled.b`
  font-family: var(--mono);
  font-size: var(--t-lead);
  font-variant-numeric: tabular-nums;
  min-width: 6ch;
`;
const Speeds = styled.div`
  display: flex;
  gap: 8px;
  button {
    min-width: 52px;
    padding: 0 0.5em;
  }
  button[aria-pressed="true"] {
    background: var(--accent-wash);
    border-color: var(--accent);
    font-weight: 700;
  }
`;
const Faces = styled.dl`
  display: flex;
  flex-wrap: wrap;
  gap: 4px 8px;
  margin-left: auto;
  @media ${HAND} {
    flex-wrap: nowrap;
    overflow-x: auto;
    gap: 4px 12px;
  }
  div {
    border: 1.5px solid var(--line);
    border-radius: 6px;
    padding: 1px 9px 3px;
    min-width: 6.5em;
    @media ${HAND} {
      border: 0;
      padding: 0;
      min-width: max-content;
    }
  }
  dt {
    font-size: var(--t-tiny);
    color: var(--soft);
  }
  dd {
    font-family: var(--mono);
    font-size: var(--t-lead);
    font-weight: 620;
    font-variant-numeric: tabular-nums;
  }
  small {
    font-weight: 450;
    color: var(--soft);
  }
`;
const Over = styled(ModalOverlay)`
  position: fixed;
  inset: 0;
  background: rgb(0 0 0 / 45%);
  display: grid;
  justify-items: end;
  z-index: 20;
`;
const Panel = styled(Modal)`
  background: var(--raised);
  width: min(560px, 100vw);
  height: 100dvh;
  overflow: auto;
  padding: 16px 20px 40px;
  outline: none;
`;

const InSight = styled.div`
  position: sticky;
  top: -16px;
  z-index: 1;
  margin: -16px -20px 12px;
  padding: 10px 20px;
  background: var(--raised);
  border-bottom: 1px solid var(--line);
`;

const SPEEDS: [Schemas["Speed"], string, string][] = [
  ["still", "", "Let the clock stand"],
  ["real", "×1", "As fast as the real one"],
  ["ten", "×10", "Ten times as fast"],
  ["sixty", "×60", "Sixty times as fast"],
];

export function FacesList({ faces }: { faces: Schemas["FaceView"][] }) {
  return (
    <Faces aria-label="Gauges">
      {faces.map((f) => (
        <div key={f.name}>
          <dt>{f.name}</dt>
          <dd>
            {f.text ?? "dark"} <small>{f.text && f.unit}</small>
          </dd>
        </div>
      ))}
    </Faces>
  );
}

/** How fast the clock goes; in the hand one button goes through them. */
function Clock({ drill }: { drill: Schemas["DrillView"] }) {
  const speed = useSpeed();
  const isInHand = useInHand();
  const at = SPEEDS.findIndex(([code]) => code === drill.speed);
  const next = SPEEDS[(at + 1) % SPEEDS.length];
  const face = (code: string, text: string) =>
    code === "still" ? <Pause size={18} aria-hidden /> : text;
  const now = SPEEDS[at];
  if (isInHand && now && next)
    return (
      <Button
        aria-label={`${now[1]} Clock: ${now[2]}. Change to: ${next[2]}`}
        onPress={() => speed.mutate(next[0])}
      >
        {face(now[0], now[1])}
      </Button>
    );
  return (
    <Speeds role="group" aria-label="Clock">
      {SPEEDS.map(([code, text, label]) => (
        <Button
          key={code}
          aria-label={`${text} ${label}`.trim()}
          aria-pressed={drill.speed === code}
          onPress={() => speed.mutate(code)}
        >
          {face(code, text)}
        </Button>
      ))}
    </Speeds>
  );
}

/** A button that opens a panel at the side. */
function Side({
  label,
  title,
  faces,
  isFirst = false,
  children,
}: {
  label: string;
  /** What lies open covers no gauge. */
  faces: Schemas["FaceView"][];
  title: string;
  isFirst?: boolean;
  children: (close: () => void) => ReactNode;
}) {
  return (
    <DialogTrigger>
      {isFirst ? <Primary>{label}</Primary> : <Button>{label}</Button>}
      <Over isDismissable>
        <Panel>
          <Dialog aria-label={title}>
            {({ close }) => (
              <>
                <InSight>
                  <FacesList faces={faces} />
                </InSight>
                {children(close)}
              </>
            )}
          </Dialog>
        </Panel>
      </Over>
    </DialogTrigger>
  );
}

/** On every page of a drill: that it is one, its clock, its gauges, and what hands can do. */
export default function DrillBar() {
  const drill = useDrill();
  const isInHand = useInHand();
  // Told until something was done.
  const [isTold, setTold] = useState<boolean | null>(null);
  const navigate = useNavigate();
  const isOver = drill?.is_over ?? false;
  const wasOver = useRef(isOver);
  useEffect(() => {
    // Decided, or harm was done: there is nothing left but to look at it.
    if (isOver && !wasOver.current) void navigate("/debrief");
    wasOver.current = isOver;
  }, [isOver, navigate]);
  if (!drill) return null;
  const isOpen = isTold ?? drill.log.length === 0;
  return (
    <Strip aria-label="Drill">
      <Line>
        <Stamp>DRILL</Stamp>
        {!isInHand && <h2>{drill.title}</h2>}
        <Time aria-label="Time since you came" role="timer">
          {sinceCame(drill.at_s)}
        </Time>
        {!isInHand && !drill.is_over && <Clock drill={drill} />}
        <FacesList faces={drill.faces} />
      </Line>
      <Line>
        {drill.is_over ? (
          <Link to="/debrief">How it went</Link>
        ) : (
          <>
            {isInHand && <Clock drill={drill} />}
            <Side
              label="Do something"
              title="What your hands can do"
              faces={drill.faces}
            >
              {(close) => <Hands drill={drill} onDone={close} />}
            </Side>
            <Side label="Decide" title="Decide" faces={drill.faces} isFirst>
              {(close) => <Decide drill={drill} onDone={close} />}
            </Side>
          </>
        )}
        <Quiet aria-expanded={isOpen} onPress={() => setTold(!isOpen)}>
          {isOpen ? "Hide the job" : "The job"}
        </Quiet>
        {(!isInHand || isOpen) && (
          <>
            <Link to={`/circuits/${drill.circuit_id}`}>The circuit</Link>
            <a href="/drills">Leave the drill</a>
          </>
        )}
      </Line>
      {isOpen && (
        <p style={{ maxWidth: "78ch" }}>
          {isInHand && <strong>{drill.title}. </strong>}
          {drill.told}
        </p>
      )}
    </Strip>
  );
}
