import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { answered, client, Refused, type Schemas } from "./client";
import { atOccasion, type Occasion } from "./occasion";

export const useGroups = () =>
  useQuery({ queryKey: ["groups"], queryFn: () => answered(client.GET("/api/groups")) });

export const useGroup = (number: number) =>
  useQuery({
    queryKey: ["groups", number],
    queryFn: () => answered(client.GET("/api/groups/{number}", { params: { path: { number } } })),
    enabled: number > 0,
  });

/** Reads a roster as it is typed, before it is stored. */
export const readRoster = (text: string) => answered(client.POST("/api/groups/read", { body: { text } }));

/** Adds a group, or gives the one of a number another title and roster. */
export const useSaveGroup = (number: number) => {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["GroupText"]) =>
      answered(
        number > 0
          ? client.PUT("/api/groups/{number}", { params: { path: { number } }, body })
          : client.POST("/api/groups", { body }),
      ),
    onSuccess: () => cache.invalidateQueries({ queryKey: ["groups"] }),
  });
};

export const useRemoveGroup = () => {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: (number: number) =>
      done(client.DELETE("/api/groups/{number}", { params: { path: { number } } })),
    onSuccess: () => cache.invalidateQueries({ queryKey: ["groups"] }),
  });
};

export const useSittings = () =>
  useQuery({ queryKey: ["sittings"], queryFn: () => answered(client.GET("/api/sittings")) });

export const useSitting = (number: number) =>
  useQuery({
    queryKey: ["sittings", number],
    queryFn: () => answered(client.GET("/api/sittings/{number}", { params: { path: { number } } })),
  });

export const useAddSitting = () => {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["NewSitting"]) => answered(client.POST("/api/sittings", { body })),
    onSuccess: () => cache.invalidateQueries({ queryKey: ["sittings"] }),
  });
};

/** What changes something of a sitting, and answers with all of it. */
const useChange = <Asked>(change: (asked: Asked) => Promise<Schemas["SittingView"]>) => {
  const cache = useQueryClient();
  return useMutation({ mutationFn: change, onSuccess: () => cache.invalidateQueries() });
};

export const useChangeSitting = (number: number) =>
  useChange((body: Schemas["SittingSettings"]) =>
    answered(client.PUT("/api/sittings/{number}", { params: { path: { number } }, body })),
  );

export const useRelease = (number: number) =>
  useChange((released: boolean) =>
    answered(
      client.POST("/api/sittings/{number}/released", { params: { path: { number } }, body: { released } }),
    ),
  );

/** Erases a learner for good, wherever they are known. */
export const useErase = () => {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["Erasing"]) => answered(client.POST("/api/learners/erased", { body })),
    onSuccess: () => cache.invalidateQueries(),
  });
};

export const useMoreSeats = (number: number) =>
  useChange((groups: number[]) =>
    answered(client.POST("/api/sittings/{number}/seats", { params: { path: { number } }, body: { groups } })),
  );

export const useChangeSeat = (number: number) =>
  useChange(({ code, ...body }: Schemas["ChangedSeat"] & { code: string }) =>
    answered(client.PUT("/api/sittings/{number}/seats/{code}", { params: { path: { number, code } }, body })),
  );

export const useMove = (number: number) =>
  useChange((body: Schemas["Move"]) =>
    answered(client.POST("/api/sittings/{number}/version", { params: { path: { number } }, body })),
  );

/** What another version of the lab changes in a sitting, asked anew until all is marked under it. */
export const useMoving = (number: number) =>
  useQuery({
    queryKey: ["sittings", number, "version"],
    queryFn: () => answered(client.GET("/api/sittings/{number}/version", { params: { path: { number } } })),
    refetchInterval: ({ state }) => (state.data !== undefined && state.data.waiting > 0 ? 1000 : false),
  });

export const useRemoveSitting = () => {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: (number: number) =>
      done(client.DELETE("/api/sittings/{number}", { params: { path: { number } } })),
    onSuccess: () => cache.invalidateQueries({ queryKey: ["sittings"] }),
  });
};

/** Puts a sitting back from the file that it was written into. */
export const useRestore = () => {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: (file: File) => {
      const form = new FormData();
      form.append("file", file);
      return answered(
        client.POST("/api/sittings/restored", {
          body: form as never,
          bodySerializer: (body: unknown) => body as FormData,
        }),
      );
    },
    onSuccess: () => cache.invalidateQueries(),
  });
};

/** How far marking is: told by the server as it goes on, or asked for where that cannot be had. */
export function useMarking(slug: string, occasion: Occasion) {
  const cache = useQueryClient();
  const key = ["marking", slug, occasion.stage, occasion.sitting];
  const found = useQuery({
    queryKey: key,
    queryFn: () =>
      answered(client.GET("/api/labs/{slug}/marking", { params: { path: { slug }, query: occasion } })),
    refetchInterval: ({ state }) => (state.data !== undefined && state.data.left > 0 ? 2000 : false),
  });
  const busy = (found.data?.left ?? 0) > 0;
  useEffect(() => {
    if (!busy) return;
    const source = new EventSource(atOccasion(`/events/${slug}`, occasion));
    source.onmessage = (event: MessageEvent<string>) => {
      const told = JSON.parse(event.data) as Schemas["MarkingProgress"];
      cache.setQueryData(key, told);
      if (told.left > 0) return;
      source.close();
      void cache.invalidateQueries({ queryKey: ["papers", slug] });
      void cache.invalidateQueries({ queryKey: ["class", slug] });
    };
    source.onerror = () => source.readyState === EventSource.CLOSED && source.close();
    return () => source.close();
    // eslint-disable-next-line react-hooks/exhaustive-deps -- the key is made of what stands here
  }, [busy, slug, occasion.stage, occasion.sitting, cache]);
  return found.data;
}

export const useStopMarking = (slug: string, occasion: Occasion) => {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: (stopped: boolean) =>
      answered(
        client.POST("/api/labs/{slug}/marking", {
          params: { path: { slug }, query: occasion },
          body: { stopped },
        }),
      ),
    onSuccess: () => cache.invalidateQueries(),
  });
};

/** Keeps or takes back comments on a paper, and says that somebody looked at what is doubtful. */
export const useComments = (paper: number) => {
  const cache = useQueryClient();
  const again = { onSuccess: () => cache.invalidateQueries() };
  const add = useMutation({
    mutationFn: (body: Schemas["Commenting"]) =>
      answered(client.POST("/api/papers/{paper}/comments", { params: { path: { paper } }, body })),
    ...again,
  });
  const remove = useMutation({
    mutationFn: (number: number) =>
      done(client.DELETE("/api/papers/{paper}/comments/{number}", { params: { path: { paper, number } } })),
    ...again,
  });
  const looked = useMutation({
    mutationFn: () => done(client.POST("/api/papers/{paper}/looked", { params: { path: { paper } } })),
    ...again,
  });
  return { add, remove, looked };
};

/** Waits for an answer without contents; raises its refusal. */
async function done(call: Promise<{ error?: unknown; response: Response }>): Promise<void> {
  const { error, response } = await call;
  if (!response.ok)
    throw new Refused(
      response.status,
      (error as { message?: string } | undefined)?.message ?? "It was not done.",
    );
}
