import { useRef } from "react";
import styled from "styled-components";
import { Quiet } from "./parts";

const WIDE = 600;
const HIGH = 180;

const Sheet = styled.svg`
  display: block;
  width: 100%;
  max-width: 600px;
  border: 1.5px solid var(--edge);
  border-radius: 8px;
  background: var(--raised);
  touch-action: none;
  cursor: crosshair;
  path {
    fill: none;
    stroke: var(--ink);
    stroke-width: 3;
    stroke-linecap: round;
    stroke-linejoin: round;
  }
`;

/** A signature as it was drawn. */
export function Drawn({ path, name }: { path: string; name: string }) {
  if (!path) return null;
  return (
    <Sheet
      viewBox={`0 0 ${WIDE} ${HIGH}`}
      role="img"
      aria-label={`Signature of ${name}`}
      style={{ maxWidth: 260, border: 0, cursor: "default" }}
    >
      <path d={path} />
    </Sheet>
  );
}

/** A sheet to sign on with a finger. */
export function Drawing({
  label,
  value,
  onChange,
}: {
  label: string;
  value: string;
  onChange: (path: string) => void;
}) {
  const path = useRef(value);
  const isDown = useRef(false);
  const at = (e: React.PointerEvent<SVGSVGElement>) => {
    const box = e.currentTarget.getBoundingClientRect();
    const x = Math.round(((e.clientX - box.left) / box.width) * WIDE);
    const y = Math.round(((e.clientY - box.top) / box.height) * HIGH);
    return `${x} ${y}`;
  };
  const add = (text: string) => {
    path.current += text;
    onChange(path.current);
  };
  return (
    <div>
      <p>{label}</p>
      <Sheet
        viewBox={`0 0 ${WIDE} ${HIGH}`}
        role="img"
        aria-label={label}
        data-drawing
        onPointerDown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId);
          isDown.current = true;
          add(`M${at(e)}`);
        }}
        onPointerMove={(e) => {
          if (isDown.current) add(`L${at(e)}`);
        }}
        onPointerUp={() => (isDown.current = false)}
        onPointerCancel={() => (isDown.current = false)}
      >
        <path d={value} />
      </Sheet>
      <Quiet
        isDisabled={!value}
        onPress={() => {
          path.current = "";
          onChange("");
        }}
      >
        Clear
      </Quiet>
    </div>
  );
}
