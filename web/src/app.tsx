import { useQuery } from "@tanstack/react-query";
import { lazy, Suspense, useEffect } from "react";
import { Navigate, Route, Routes, useLocation, useMatch } from "react-router";
import { setWriter } from "./api/outbox";
import { BenchEdge } from "./frame/BenchEdge";
import { Boundary } from "./frame/Boundary";
import { NotHere } from "./frame/Trouble";
import { Today } from "./home/Today";
import { meQuery } from "./queries/people";

// Each page comes when it is walked to, so that the first route stays light.
const Trials = lazy(async () => ({
  default: (await import("./home/Trials")).Trials,
}));
const TrialFrame = lazy(async () => ({
  default: (await import("./frame/TrialFrame")).TrialFrame,
}));
const SignIn = lazy(async () => ({
  default: (await import("./people/SignIn")).SignIn,
}));
const Ask = lazy(() => import("./stations/ask/Ask"));
const Match = lazy(() => import("./stations/match/Match"));
const Place = lazy(() => import("./stations/place/Place"));
const Mix = lazy(() => import("./stations/mix/Mix"));
const Tend = lazy(() => import("./stations/tend/Tend"));
const LineUp = lazy(() => import("./stations/tend/line-up/LineUp"));
const Tracks = lazy(() => import("./stations/tend/tracks/Tracks"));
const Weigh = lazy(() => import("./stations/weigh/Weigh"));
const Tasting = lazy(() => import("./stations/weigh/tasting/Tasting"));
const Cards = lazy(() => import("./stations/weigh/tasting/Cards"));
const Taste = lazy(() => import("./taste/Taste"));
const Judge = lazy(() => import("./stations/judge/Judge"));
const Tell = lazy(() => import("./stations/tell/Tell"));
const Farm = lazy(() => import("./farm/Farm"));
const People = lazy(() => import("./people/People"));
const Labels = lazy(() => import("./stations/place/Labels"));
const UnitPage = lazy(() => import("./stations/tend/UnitPage"));
const Handover = lazy(() => import("./home/Handover"));
const Stores = lazy(() => import("./stores/Stores"));

export function App() {
  // A seat at a tasting is opened by its address alone: no sign-in, and nothing of the farm around it.
  return useMatch("/taste/:token") ? <AtTable /> : <AtHome />;
}

function AtTable() {
  return (
    <Boundary>
      <Suspense fallback={<main aria-busy="true" />}>
        <Routes>
          <Route path="/taste/:token" element={<Taste />} />
        </Routes>
      </Suspense>
    </Boundary>
  );
}

function AtHome() {
  const me = useQuery(meQuery);
  const { pathname } = useLocation();
  const name = me.data?.role ? me.data.name : null;
  useEffect(() => setWriter(name ?? null), [name]);
  if (me.data && me.data.role === null) {
    return (
      <Boundary>
        <Suspense fallback={<div className="sheet waiting" aria-busy="true" />}>
          <SignIn />
        </Suspense>
      </Boundary>
    );
  }
  return (
    <>
      <Boundary at={pathname}>
        <Suspense fallback={<div className="sheet waiting" aria-busy="true" />}>
          <Pages />
        </Suspense>
      </Boundary>
      <BenchEdge />
    </>
  );
}

function Pages() {
  return (
    <Routes>
      <Route path="/" element={<Today />} />
      <Route path="/trials" element={<Trials />} />
      <Route path="/farm" element={<Farm />} />
      <Route path="/people" element={<People />} />
      <Route path="/stores" element={<Navigate to="/stores/feeds" replace />} />
      <Route path="/stores/:shelf" element={<Stores />} />
      <Route path="/handover/:away" element={<Handover />} />
      <Route path="/trials/:id/tastings/:no/cards" element={<Cards />} />
      <Route path="/trials/:id/labels" element={<Labels />} />
      <Route path="/trials/:id/units/:code" element={<UnitPage />} />
      <Route path="/trials/:id" element={<TrialFrame />}>
        <Route index element={<Navigate to="ask" replace />} />
        <Route path="ask" element={<Ask />} />
        <Route path="match" element={<Match />} />
        <Route path="place" element={<Place />} />
        <Route path="mix" element={<Mix />} />
        <Route path="tend" element={<Tend />} />
        <Route path="tend/line-up" element={<LineUp />} />
        <Route path="tend/tracks" element={<Tracks />} />
        <Route path="weigh" element={<Weigh />} />
        <Route path="weigh/tasting" element={<Tasting />} />
        <Route path="judge" element={<Judge />} />
        <Route path="tell" element={<Tell />} />
      </Route>
      <Route path="*" element={<NotHere />} />
    </Routes>
  );
}
