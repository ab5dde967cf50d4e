import { lazy, Suspense } from "react";
import { Route, Routes } from "react-router";
import { useOutbox } from "./api/outbox";
import { Shell } from "./look/Shell";
import { Today } from "./pages/Today";

const NewJob = lazy(() => import("./pages/NewJob"));
const Circuit = lazy(() => import("./pages/circuit/Circuit"));
const Glance = lazy(() => import("./pages/Glance"));
const Scale = lazy(() => import("./pages/Scale"));
const Bench = lazy(() => import("./pages/bench/Bench"));
const Kit = lazy(() => import("./pages/Kit"));
const Procedures = lazy(() => import("./pages/Procedures"));
const RecordPage = lazy(() => import("./pages/Record"));

export function App() {
  useOutbox();
  return (
    <Shell>
      <Suspense fallback={<p role="status">One moment …</p>}>
        <Routes>
          <Route path="/" element={<Today />} />
          <Route path="/jobs/new" element={<NewJob />} />
          <Route path="/circuits/:id" element={<Circuit />} />
          <Route path="/circuits/:id/glance" element={<Glance />} />
          <Route path="/circuits/:id/scale" element={<Scale />} />
          <Route path="/bench" element={<Bench />} />
          <Route path="/kit" element={<Kit />} />
          <Route path="/procedures" element={<Procedures />} />
          <Route path="/circuits/:id/record" element={<RecordPage />} />
          <Route path="*" element={<p>There is nothing at this address.</p>} />
        </Routes>
      </Suspense>
    </Shell>
  );
}
