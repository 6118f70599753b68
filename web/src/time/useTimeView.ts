// The stretch of time that a view shows, kept while other views are open; zoomed
// and scrolled by wheel, keys and an overview, and following what plays.
import { useCallback, useEffect, useRef } from "react";
import { create } from "zustand";
import { monitor, useMonitor } from "../live/monitor";
import { eachFrame } from "../live/useEvery";
import { type Axis, following, held, type Limits, scrolled, sighted, type View, zoomed } from "./axis";

interface Views {
  views: Record<string, View>;
  /** Whether views keep what plays in sight. */
  follow: boolean;
}

export const useViews = create<Views>(() => ({
  views: {},
  follow: localStorage.getItem("follow") !== "off",
}));

export function setFollow(follow: boolean) {
  localStorage.setItem("follow", follow ? "on" : "off");
  useViews.setState({ follow });
}

export interface TimeView {
  view: View;
  limits: Limits;
  /** Whether all there is is on show. */
  whole: boolean;
  show: (view: View) => void;
  zoom: (by: number, around?: number) => void;
  /** Scrolls by parts of what is on show. */
  page: (by: number) => void;
  scroll: (by: number) => void;
  /** Brings a moment into sight; the same function for as long as the view is there. */
  reveal: (time: number) => void;
}

/** The view called key, of what limits bound, which begins as start. */
export function useTimeView(key: string, limits: Limits, start: View): TimeView {
  const kept = useViews((s) => s.views[key]);
  const view = held(kept ?? start, limits);
  const now = useRef({ view, limits });
  now.current = { view, limits };
  const change = useCallback(
    (f: (view: View, l: Limits) => View) => {
      const next = f(now.current.view, now.current.limits);
      now.current.view = next;
      useViews.setState((s) => ({ views: { ...s.views, [key]: next } }));
    },
    [key],
  );
  const reveal = useCallback((at: number) => change((v, l) => sighted(v, at, l)), [change]);
  return {
    view,
    limits,
    whole: view.from <= limits.from && view.to >= limits.to,
    show: (v) => change((_, l) => held(v, l)),
    zoom: (by, around) => change((v, l) => zoomed(v, by, around ?? (v.from + v.to) / 2, l)),
    page: (by) => change((v, l) => scrolled(v, by * (v.to - v.from), l)),
    scroll: (by) => change((v, l) => scrolled(v, by, l)),
    reveal,
  };
}

/**
 * The wheel over an element: with Ctrl it zooms around the pointer, with Shift,
 * or sideways, it scrolls. Left is how far the axis begins from the element's
 * left.
 */
export function useTimeWheel(
  element: React.RefObject<HTMLElement | null>,
  axis: Axis,
  time: TimeView,
  left: number,
) {
  const latest = useRef({ axis, time });
  latest.current = { axis, time };
  useEffect(() => {
    const el = element.current;
    const onWheel = (e: WheelEvent) => {
      const { axis, time } = latest.current;
      const sideways = e.shiftKey && e.deltaX === 0 ? e.deltaY : e.deltaX;
      if (e.ctrlKey || e.metaKey) {
        const x = e.clientX - (el?.getBoundingClientRect().left ?? 0) - left;
        time.zoom(Math.exp(-e.deltaY * 0.0025), axis.at(x));
      } else if (Math.abs(sideways) > Math.abs(e.shiftKey ? 0 : e.deltaY)) time.scroll(sideways / axis.per);
      else return;
      e.preventDefault();
    };
    el?.addEventListener("wheel", onWheel, { passive: false });
    return () => el?.removeEventListener("wheel", onWheel);
  }, [element, left]);
}

/** Keeps what plays in sight: where reports the time of a place of the groove, in ticks. */
export function useFollow(time: TimeView, where: (tick: number) => number | null, piece = false) {
  const follow = useViews((s) => s.follow);
  const playing = useMonitor((m) => m.playing);
  const latest = useRef({ time, where });
  latest.current = { time, where };
  useEffect(() => {
    if (!playing || !follow) return;
    const look = () => {
      const { time, where } = latest.current;
      const { report } = monitor;
      const at = report.playing && report.piece === piece && !time.whole ? where(report.position) : null;
      if (at === null) return;
      const next = following(time.view, at, time.limits);
      if (next.from !== time.view.from) time.show(next);
    };
    const timer = setInterval(look, eachFrame);
    return () => clearInterval(timer);
  }, [playing, follow, piece]);
}
