import { Check as CheckMark, Gauge, Moon, Sun, SunMoon } from "lucide-react";
import { useState, type ReactNode } from "react";
import {
  Checkbox,
  Dialog,
  DialogTrigger,
  Popover,
} from "react-aria-components";
import { Link } from "react-router";
import styled from "styled-components";
import { useIsLive } from "../api/live";
import { OFFERED, useUnits, type Kind } from "../units/units";
import { areKeysOn, KEYS, setKeys, useKey } from "./keys";
import { AllAlerts } from "./AllAlerts";
import { Pick, Quiet } from "./parts";
import { rememberedTheme, setTheme, type Theme } from "./theme";

const Head = styled.header`
  display: flex;
  align-items: center;
  gap: 4px 14px;
  padding: 0 20px;
  min-height: 52px;
  border-bottom: 1px solid var(--line);
  @media (max-width: 700px) {
    padding: 0 12px;
    gap: 2px;
  }
  @media print {
    display: none;
  }
`;
const Name = styled(Link)`
  font-size: 1.25rem;
  font-weight: 750;
  letter-spacing: 0.01em;
  color: var(--ink);
  text-decoration: none;
  display: inline-flex;
  align-items: center;
  gap: 0.45em;
  min-height: 48px;
`;
const Rooms = styled.nav`
  display: flex;
  gap: 2px;
  a {
    min-height: 48px;
    min-width: 48px;
    padding: 0 0.6em;
    display: inline-flex;
    align-items: center;
    justify-content: center;
    text-decoration: none;
    color: var(--soft);
  }
  a:hover {
    color: var(--ink);
    text-decoration: underline;
  }
  @media (max-width: 430px) {
    a {
      padding: 0 0.25em;
      font-size: 0.92rem;
    }
  }
`;
const Away = styled.span`
  margin-left: auto;
`;
const Lost = styled.span`
  font-weight: 650;
  color: var(--falling);
  font-size: 0.92rem;
`;
const Main = styled.main`
  outline: none;
`;
const Sheet = styled(Popover)`
  background: var(--raised);
  border: 1.5px solid var(--edge);
  border-radius: 10px;
  padding: 16px;
  width: min(320px, 92vw);
`;
const Stack = styled.div`
  display: grid;
  gap: 12px;
`;
const Check = styled(Checkbox)`
  display: flex;
  align-items: center;
  gap: 0.6em;
  min-height: 48px;
  cursor: pointer;
  i {
    width: 26px;
    height: 26px;
    border: 2px solid var(--edge);
    border-radius: 5px;
    display: grid;
    place-items: center;
    font-style: normal;
    line-height: 1;
  }
  &[data-selected] i {
    border-color: var(--accent);
    color: var(--accent);
  }
`;
const Keys = styled.dl`
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: 2px 14px;
  font-size: 0.92rem;
  dt {
    font-family: var(--mono);
    font-weight: 600;
  }
`;
const Skip = styled.a`
  position: absolute;
  left: -999px;
  &:focus {
    left: 8px;
    top: 8px;
    background: var(--raised);
    padding: 12px;
    z-index: 9;
  }
`;

const KINDS: [Kind, string][] = [
  ["pressure", "Pressure"],
  ["temperature", "Temperature"],
  ["vacuum", "Vacuum"],
];
const THEMES: Theme[] = ["system", "day", "plant"];
const THEME_NAMES: Record<Theme, string> = {
  system: "as the device",
  day: "day",
  plant: "plant room",
};

function UnitsMenu() {
  const { chosen, choose, unit, label } = useUnits();
  const [isOpen, setOpen] = useState(false);
  const [hasKeys, setHasKeys] = useState(areKeysOn);
  useKey("u", () => setOpen(true));
  useKey("?", () => setOpen(true));
  return (
    <DialogTrigger isOpen={isOpen} onOpenChange={setOpen}>
      <Quiet aria-label={`Units, ${label("pressure")}`}>
        <Gauge size={20} aria-hidden />
        <span>{label("pressure")}</span>
      </Quiet>
      <Sheet placement="bottom end">
        <Dialog aria-label="Units">
          <Stack>
            {KINDS.map(([kind, name]) => (
              <Pick
                key={kind}
                label={name}
                value={chosen[kind]}
                onChange={(code) => choose(kind, code)}
                options={OFFERED[kind].map((id) => ({
                  id,
                  text: unit(id)?.label ?? id,
                }))}
              />
            ))}
            <p>
              What was typed stays as typed; this changes only what is shown.
            </p>
            <Check
              isSelected={hasKeys}
              onChange={(on) => {
                setKeys(on);
                setHasKeys(on);
              }}
            >
              <i aria-hidden>{hasKeys && <CheckMark size={18} />}</i>Single keys
            </Check>
            <Keys>
              {KEYS.map(([key, what]) => (
                <div key={key} style={{ display: "contents" }}>
                  <dt>{key}</dt>
                  <dd>{what}</dd>
                </div>
              ))}
            </Keys>
          </Stack>
        </Dialog>
      </Sheet>
    </DialogTrigger>
  );
}

function ThemeButton() {
  const [theme, change] = useState(rememberedTheme);
  const next = THEMES[(THEMES.indexOf(theme) + 1) % THEMES.length] ?? "system";
  const Icon = { day: Sun, plant: Moon, system: SunMoon }[theme];
  return (
    <Quiet
      aria-label={`Light: ${THEME_NAMES[theme]}. Change to ${THEME_NAMES[next]}`}
      onPress={() => {
        setTheme(next);
        change(next);
      }}
    >
      <Icon size={20} aria-hidden />
    </Quiet>
  );
}

export function Shell({ children }: { children: ReactNode }) {
  const isLive = useIsLive();
  return (
    <>
      <AllAlerts />
      <Skip href="#main">To the content</Skip>
      <Head>
        <Name to="/">
          <svg width="24" height="24" viewBox="0 0 32 32" aria-hidden>
            <path
              d="M3 7c5 11 9 13 26 13M3 26h26"
              fill="none"
              stroke="currentColor"
              strokeWidth="4"
              strokeLinecap="round"
            />
          </svg>
          Ruhe
        </Name>
        <Rooms aria-label="Rooms">
          <Link to="/kit">Kit</Link>
          <Link to="/bench">Bench</Link>
          <Link to="/procedures">Procedures</Link>
        </Rooms>
        <Away role="status">
          {isLive ? null : <Lost>No connection; readings wait here</Lost>}
        </Away>
        <UnitsMenu />
        <ThemeButton />
      </Head>
      <Main id="main" tabIndex={-1}>
        {children}
      </Main>
    </>
  );
}
