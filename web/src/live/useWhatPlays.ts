import { useEffect } from "react";
import { monitor, useMonitor } from "./monitor";

/** On a view of the arrangement that is what plays, on one of the groove the groove, unless something plays already. */
export function useWhatPlays(piece: boolean) {
  useEffect(() => {
    if (!useMonitor.getState().playing) monitor.setPiece(piece);
  }, [piece]);
}
