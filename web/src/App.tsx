import { lazy, Suspense } from "react";
import { Navigate, Route, Routes, useLocation } from "react-router";
import { LiveProvider } from "./api/live";
import { useOutbox } from "./api/outbox";
import { InDrill, useDrill, useDrillNow } from "./api/drills";
import { drill } from "./api/room";
import { useForgetting, useSession } from "./api/session";
import { Shell } from "./look/Shell";
import { SignIn } from "./pages/SignIn";
import { Today } from "./pages/Today";

const NewJob = lazy(() => import("./pages/NewJob"));
const Circuit = lazy(() => import("./pages/circuit/Circuit"));
const Glance = lazy(() => import("./pages/Glance"));
const Scale = lazy(() => import("./pages/Scale"));
const Bench = lazy(() => import("./pages/bench/Bench"));
const Drills = lazy(() => import("./pages/drills/Drills"));
const Debrief = lazy(() => import("./pages/drills/Debrief"));
const About = lazy(() => import("./pages/About"));
const Handbook = lazy(() => import("./pages/handbook/Handbook"));
const Kit = lazy(() => import("./pages/kit/Kit"));
const Procedures = lazy(() => import("./pages/Procedures"));
const People = lazy(() => import("./pages/people/People"));
const Pair = lazy(() => import("./pages/Pair"));
const RecordPage = lazy(() => import("./pages/Record"));

export function App() {
  const session = useSession();
  const { pathname } = useLocation();
  if (!session) return <p role="status">Ruhe is starting …</p>;
  if (session.must_sign_in)
    return (
      <main>
        <Suspense fallback={<p role="status">One moment …</p>}>
          {pathname === "/pair" ? <Pair /> : <SignIn />}
        </Suspense>
      </main>
    );
  return (
    <LiveProvider>{drill === null ? <Rooms /> : <DrillRoom />}</LiveProvider>
  );
}

/** Where one begins: with everything in work, or with the one circuit of a drill. */
function Begin() {
  const drill = useDrill();
  if (!drill) return <Today />;
  const to = drill.is_over ? "/debrief" : `/circuits/${drill.circuit_id}`;
  return <Navigate to={to} replace />;
}

/** The same rooms, in a drill: they open when its clock is known. */
function DrillRoom() {
  const { view, error } = useDrillNow();
  if (!view)
    return (
      <main>
        <p role="status">{error ? error.message : "One moment …"}</p>
        {error && <a href="/drills">All drills</a>}
      </main>
    );
  return (
    <InDrill value={view}>
      <Rooms />
    </InDrill>
  );
}

/** What is open to whoever came in. */
function Rooms() {
  useOutbox();
  useForgetting();
  return (
    <Shell>
      <Suspense fallback={<p role="status">One moment …</p>}>
        <Routes>
          <Route path="/" element={<Begin />} />
          <Route path="/jobs/new" element={<NewJob />} />
          <Route path="/circuits/:id" element={<Circuit />} />
          <Route path="/circuits/:id/glance" element={<Glance />} />
          <Route path="/circuits/:id/scale" element={<Scale />} />
          <Route path="/bench" element={<Bench />} />
          <Route path="/about" element={<About />} />
          <Route path="/handbook" element={<Handbook />} />
          <Route path="/kit" element={<Kit />} />
          <Route path="/people" element={<People />} />
          {/* Whoever is in already has nothing to pair. */}
          <Route path="/pair" element={<Navigate to="/" replace />} />
          <Route path="/drills" element={<Drills />} />
          <Route path="/debrief" element={<Debrief />} />
          <Route path="/procedures" element={<Procedures />} />
          <Route path="/circuits/:id/record" element={<RecordPage />} />
          <Route path="*" element={<p>There is nothing at this address.</p>} />
        </Routes>
      </Suspense>
    </Shell>
  );
}
