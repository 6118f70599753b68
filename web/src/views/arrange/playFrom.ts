import { monitor } from "../../live/monitor";

/** Plays the arrangement from a tick on. */
export function playFrom(tick: number) {
  monitor.setPiece(true);
  void monitor.play(Math.round(tick));
}
