import {
  Bell,
  BellOff,
  Check as CheckMark,
  Gauge,
  Menu,
  Moon,
  Sun,
  SunMoon,
} from "lucide-react";
import {
  lazy,
  Suspense,
  useEffect,
  useRef,
  useState,
  type ReactNode,
} from "react";
import {
  Checkbox,
  Dialog,
  DialogTrigger,
  Popover,
} from "react-aria-components";
import { Link, useLocation } from "react-router";
import styled from "styled-components";
import { span, useUnits } from "../units/units";
import { areKeysOn, KEYS, setKeys, useKey } from "./keys";
import { setChime, useChime } from "../api/alerts";
import { drill } from "../api/room";
import { AllAlerts, useDue } from "./AllAlerts";
import { useNow } from "./now";
import { HiddenText, Quiet, Tag } from "./parts";
import { HAND, useInHand } from "./screen";
import { Unsent } from "./Unsent";
import { rememberedTheme, setTheme, type Theme } from "./theme";

const DrillBar = lazy(() => import("../pages/drills/Bar"));

const Head = styled.header`
  display: flex;
  align-items: center;
  gap: 4px 14px;
  padding: 0 20px;
  min-height: 52px;
  border-bottom: 1px solid var(--line);
  @media ${HAND} {
    padding: 0 12px;
    gap: 6px;
    min-height: 48px;
  }
  @media print {
    display: none;
  }
`;
const Name = styled(Link)`
  font-size: var(--t-large);
  font-weight: 750;
  letter-spacing: 0.01em;
  color: var(--ink);
  text-decoration: none;
  display: inline-flex;
  align-items: center;
  gap: 0.45em;
  min-height: 48px;
`;
const Rooms = styled.nav<{ $isColumn: boolean }>`
  display: flex;
  gap: 2px;
  ${(p) => p.$isColumn && "flex-wrap: wrap;"}
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
`;
const Away = styled.span`
  margin-left: auto;
`;
const Elsewhere = styled(Link)`
  white-space: nowrap;
  display: inline-flex;
  align-items: center;
  gap: 0.45em;
  min-height: 48px;
  padding: 0 4px;
  color: var(--ink);
  text-decoration: none;
  b {
    font-family: var(--mono);
  }
  &[data-due] b {
    color: var(--falling);
  }
  span {
    color: var(--soft);
    font-size: var(--t-small);
  }
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
  font-size: var(--t-note);
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

const UnitPicks = lazy(() => import("./UnitPicks"));
const THEMES: Theme[] = ["system", "day", "plant"];
const THEME_NAMES: Record<Theme, string> = {
  system: "as the device",
  day: "day",
  plant: "plant room",
};

function UnitsMenu({ isWide = false }: { isWide?: boolean }) {
  const { label } = useUnits();
  const { pathname } = useLocation();
  // Where it was opened: going somewhere else closes it.
  const [openAt, setOpenAt] = useState<string | null>(null);
  const isOpen = openAt === pathname;
  const setOpen = (open: boolean) => setOpenAt(open ? pathname : null);
  const [hasKeys, setHasKeys] = useState(areKeysOn);
  const hasChime = useChime();
  useKey("u", () => setOpen(true));
  useKey("?", () => setOpen(true));
  return (
    <DialogTrigger isOpen={isOpen} onOpenChange={setOpen}>
      <Quiet aria-label={`Units, ${label("pressure")}`}>
        <Gauge size={20} aria-hidden />
        <span>{isWide ? "Units and sound" : label("pressure")}</span>
      </Quiet>
      <Sheet placement="bottom end">
        <Dialog aria-label="Units">
          <Stack>
            <Suspense fallback={null}>
              <UnitPicks />
            </Suspense>
            <p>
              Readings stay as typed. Figures in a form are converted with it.
            </p>
            <Quiet aria-pressed={hasChime} onPress={() => setChime(!hasChime)}>
              {hasChime ? (
                <Bell size={20} aria-hidden />
              ) : (
                <BellOff size={20} aria-hidden />
              )}
              {hasChime ? "Chimes when something is due" : "Silent"}
            </Quiet>
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
            <Link to="/handbook">Handbook</Link>
            {drill === null && <Link to="/about">About Ruhe</Link>}
          </Stack>
        </Dialog>
      </Sheet>
    </DialogTrigger>
  );
}

function ThemeButton({ isWide = false }: { isWide?: boolean }) {
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
      {isWide && `Light: ${THEME_NAMES[theme]}`}
    </Quiet>
  );
}

/** What runs elsewhere, on every page: tag, system and what is left of the soonest, and how many more. */
function RunningElsewhere() {
  const rows = useDue();
  const now = useNow();
  const { pathname } = useLocation();
  const others = rows.filter(
    (r) => !pathname.startsWith(`/circuits/${r.circuit_id}`),
  );
  const first = others[0];
  if (pathname === "/" || !first?.clock) return null;
  const left = (first.clock.at_ms - now) / 1000;
  return (
    <Elsewhere
      to={`/circuits/${first.circuit_id}`}
      data-due={left <= 0 || undefined}
    >
      <Tag tag={first.tag} isSmall />
      <HiddenText>
        {first.system}, circuit {first.tag}, {first.clock.label}:
      </HiddenText>{" "}
      <b>{left > 0 ? span(left) : "due"}</b>
      {others.length > 1 && (
        <span>
          +{others.length - 1}
          <HiddenText> more</HiddenText>
        </span>
      )}
    </Elsewhere>
  );
}

const ROOMS: [string, string][] = [
  ["/kit", "Kit"],
  ["/bench", "Bench"],
  ["/procedures", "Procedures"],
  ["/drills", "Drills"],
  ["/people", "People"],
];

/** Where else one can go. */
function RoomLinks({ isColumn = false }: { isColumn?: boolean }) {
  return (
    <Rooms aria-label="Rooms" $isColumn={isColumn}>
      {/* A drill has no other rooms. */}
      {(drill === null ? ROOMS : []).map(([to, name]) => (
        <Link key={to} to={to}>
          {name}
        </Link>
      ))}
    </Rooms>
  );
}

/** In the hand rooms, units and light stand behind one button. */
function More() {
  const { pathname } = useLocation();
  // Keyed by the page: going somewhere closes it.
  return (
    <DialogTrigger key={pathname}>
      <Quiet aria-label="More">
        <Menu size={24} aria-hidden />
      </Quiet>
      <Sheet placement="bottom end">
        <Dialog aria-label="More">
          <Stack style={{ justifyItems: "start" }}>
            <RoomLinks isColumn />
            <UnitsMenu isWide />
            <ThemeButton isWide />
          </Stack>
        </Dialog>
      </Sheet>
    </DialogTrigger>
  );
}

/** On another page the focus begins where its content does. */
function useFocusOnArrival() {
  const { pathname } = useLocation();
  const last = useRef(pathname);
  useEffect(() => {
    if (last.current === pathname) return;
    last.current = pathname;
    document.getElementById("main")?.focus({ preventScroll: true });
  }, [pathname]);
}

export function Shell({ children }: { children: ReactNode }) {
  const isInHand = useInHand();
  useFocusOnArrival();
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
        {!isInHand && <RoomLinks />}
        <Away role="status">
          <Unsent />
        </Away>
        <RunningElsewhere />
        {isInHand ? (
          <More />
        ) : (
          <>
            <UnitsMenu />
            <ThemeButton />
          </>
        )}
      </Head>
      {drill !== null && (
        <Suspense fallback={null}>
          <DrillBar />
        </Suspense>
      )}
      <Main id="main" tabIndex={-1}>
        {children}
      </Main>
    </>
  );
}
