// A profile as reference.
import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { api, type Schemas } from "../../api/client";
import { useProject } from "../../state/project";
import { go } from "../../state/route";
import { HabitTable } from "./Habits";
import { ProfileTable } from "./ProfileTable";

export function ProfileView(p: { head: ReactNode; profile: Schemas["Profile"]; reference: string }) {
  const edit = useProject((s) => s.edit);
  const id = useProject((s) => s.state?.id) ?? "";
  const version = useProject((s) => s.state?.version) ?? 0;
  const nearest = useQuery({
    queryKey: ["nearest", id, version],
    queryFn: () => api.nearest(id),
    enabled: !!p.profile.habit,
  }).data?.recording;
  return (
    <main className="flex min-w-0 grow flex-col overflow-y-auto px-4 py-3">
      <div className="mb-4 flex flex-wrap items-center gap-2">{p.head}</div>
      <div className="rowbox max-w-[760px] p-5">
        <h2 className="mb-1 text-xl">{p.profile.name}</h2>
        <p className="mb-3 text-sm text-muted">
          A profile without a recording; source: {p.profile.source}. In Compare, anything inside its ranges
          counts as within tolerance.
        </p>
        {p.profile.notes && <p className="mb-4">{p.profile.notes}</p>}
        <HabitTable
          profile={p.profile}
          {...(nearest ? { nearest } : {})}
          onAim={(recording) => edit([{ op: "reference.aim", reference: p.reference, recording }])}
        />
        <ProfileTable profile={p.profile} />
        <div className="mt-5 flex gap-2">
          <button
            type="button"
            className="press press-strong"
            onClick={() => {
              edit([{ op: "take.feel", reference: p.reference }]);
              go(id, "groove");
            }}
          >
            Take the feel
          </button>
          <button
            type="button"
            className="press"
            onClick={() => {
              edit([{ op: "take.both", reference: p.reference }]);
              go(id, "groove");
            }}
          >
            Take feel and tempo
          </button>
        </div>
      </div>
    </main>
  );
}
