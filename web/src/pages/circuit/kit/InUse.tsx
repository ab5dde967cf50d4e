import { useQuery } from "@tanstack/react-query";
import { client, freshId, told } from "../../../api/client";
import { useWrite, writes } from "../../../api/queries";
import { Button, Note } from "../../../look/parts";
import { atClock } from "../../../units/units";
import { now as nowHere } from "../../../api/clock";

/** Things of the kit that are chosen here and stand on another circuit: when they are free, and moving them. */
export function InUse({ circuit, ids }: { circuit: string; ids: string[] }) {
  const { data } = useQuery({
    queryKey: ["kit", "in-use"],
    queryFn: () => told(client.GET("/api/kit/in-use")),
  });
  const move = useWrite(
    (u: {
      test_id: string;
      freed_by: Parameters<ReturnType<typeof writes.event>>[0]["kind"];
    }) =>
      writes.event(u.test_id)({
        id: freshId(),
        kind: u.freed_by,
        note: "moved to another circuit",
        client_ms: nowHere(),
      }),
  );
  const taken = (data ?? []).filter(
    (u) => u.circuit_id !== circuit && ids.includes(u.item),
  );
  return taken.map((u) => (
    <Note key={u.item + u.test_id}>
      {u.name} is on {u.place} since {atClock(u.since_ms)} ({u.title})
      {u.free_ms != null && `; it is due about ${atClock(u.free_ms)}`}. Take
      another one, or{" "}
      <Button isDisabled={move.isPending} onPress={() => move.mutate(u)}>
        Move it here
      </Button>
    </Note>
  ));
}
