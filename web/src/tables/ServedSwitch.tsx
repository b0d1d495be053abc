import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, ask } from "../api/client";
import { Check } from "../design/Field";
import { ProblemNotice } from "../design/Notice";

/** Opens a table to those who ask it as an authority, or closes it, and says where it answers. */
export function ServedSwitch({ table }: { table: number }) {
  const client = useQueryClient();
  const params = { path: { table } };
  const about = useQuery({
    queryKey: ["served", table],
    queryFn: () => ask(api.GET("/tables/{table}/authority", { params })),
  });
  const set = useMutation({
    mutationFn: (served: boolean) => ask(api.PUT("/tables/{table}/authority", { params, body: { served } })),
    onSuccess: () => client.invalidateQueries({ queryKey: ["served", table] }),
  });
  return (
    <div className="mb-4 border-t border-rule-2 pt-3">
      {set.error && <ProblemNotice error={set.error} />}
      <Check checked={about.data?.served === true} disabled={set.isPending} onChange={(on) => set.mutate(on)}>
        <span>Answer others as an authority, read only, by the reconciliation service API</span>
      </Check>
      {about.data?.served && (
        <p className="mt-0.5 ml-5 text-[12px] text-ink-2">
          At {window.location.origin}
          {about.data.path}
        </p>
      )}
    </div>
  );
}
