import { X } from "lucide-react";
import { Link, useNavigate, useParams } from "react-router";
import styled from "styled-components";
import { tried } from "../api/visit";
import { useBench, useCircuit } from "../api/queries";
import { useKey } from "../look/keys";
import { Field, Tag } from "../look/parts";
import { isReady, useScale } from "./circuit/charge/scale";

const Full = styled.div`
  position: fixed;
  inset: 0;
  z-index: 5;
  background: var(--paper);
  display: flex;
  flex-direction: column;
  gap: 2vh;
  padding: 2vh 4vw;
  overflow: auto;
`;
const Top = styled.div`
  display: flex;
  align-items: center;
  gap: 14px;
  & > p {
    flex: 1;
  }
  a {
    min-width: 48px;
    min-height: 48px;
    display: grid;
    place-items: center;
    color: var(--ink);
  }
`;
const Number = styled.p`
  font-family: var(--mono);
  font-variant-numeric: tabular-nums;
  font-weight: 700;
  line-height: 1.05;
  font-size: min(19vw, 26vh);
  @media (orientation: portrait) {
    font-size: min(17vw, 14vh);
  }
`;
const Say = styled.p`
  font-size: clamp(1.2rem, 3.4vw, 2.2rem);
  color: var(--soft);
  b {
    color: var(--ink);
    font-family: var(--mono);
  }
`;

/** The number to stop at, as large as the glance: for the phone on the cylinder. */
export default function Scale() {
  const { id = "" } = useParams();
  const { data: circuit } = useCircuit(id);
  const [scale, setScale] = useScale(id);
  const leave = useNavigate();
  useKey("escape", () => void leave(`/circuits/${id}?stage=charge`));
  const { data, error } = useBench(
    `stop ${id} ${circuit?.head ?? ""}`,
    circuit && isReady(scale) ? scale : null,
    tried.stop(id),
  );
  return (
    <Full>
      <Top>
        {circuit && <Tag tag={circuit.tag} />}
        <p>
          {circuit?.system}, {circuit?.refrigerant}
        </p>
        <Link to={`/circuits/${id}?stage=charge`} aria-label="Back">
          <X />
        </Link>
      </Top>
      {data && !error ? (
        <>
          <Say>Stop at</Say>
          <Number>{data.stop}</Number>
          <Say>
            throttle from <b>{data.throttle}</b>
          </Say>
          <Say>to add {data.to_add.words}</Say>
        </>
      ) : (
        <Say role="status">
          {error?.message ?? "Type what the scale shows."}
        </Say>
      )}
      {scale.mode === "counts_down" && (
        <Field
          label={`The scale shows before the start, ${scale.unit}`}
          value={scale.start ?? ""}
          onChange={(start) => setScale({ ...scale, start })}
        />
      )}
    </Full>
  );
}
