import { lazy, Suspense } from "react";
import { Navigate, Route, Routes } from "react-router";
import { BenchEdge } from "./frame/BenchEdge";
import { TrialFrame } from "./frame/TrialFrame";
import { NotHere } from "./frame/Trouble";
import { Today } from "./home/Today";
import { Trials } from "./home/Trials";

// Each station comes when it is walked to, so that the first route stays light.
const Ask = lazy(() => import("./stations/ask/Ask"));
const Match = lazy(() => import("./stations/match/Match"));
const Place = lazy(() => import("./stations/place/Place"));
const Mix = lazy(() => import("./stations/mix/Mix"));
const Tend = lazy(() => import("./stations/tend/Tend"));
const Weigh = lazy(() => import("./stations/weigh/Weigh"));
const Judge = lazy(() => import("./stations/judge/Judge"));
const Tell = lazy(() => import("./stations/tell/Tell"));

export function App() {
  return (
    <>
      <Suspense fallback={<div className="sheet waiting" aria-busy="true" />}>
        <Routes>
          <Route path="/" element={<Today />} />
          <Route path="/trials" element={<Trials />} />
          <Route path="/trials/:id" element={<TrialFrame />}>
            <Route index element={<Navigate to="ask" replace />} />
            <Route path="ask" element={<Ask />} />
            <Route path="match" element={<Match />} />
            <Route path="place" element={<Place />} />
            <Route path="mix" element={<Mix />} />
            <Route path="tend" element={<Tend />} />
            <Route path="weigh" element={<Weigh />} />
            <Route path="judge" element={<Judge />} />
            <Route path="tell" element={<Tell />} />
          </Route>
          <Route path="*" element={<NotHere />} />
        </Routes>
      </Suspense>
      <BenchEdge />
    </>
  );
}
