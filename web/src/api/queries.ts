import { keepPreviousData, QueryClient, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answered, client, Refused, type Schemas } from "./client";
import type { Occasion } from "./occasion";

/** Which of a lab's sheets of a device. */
export type Side = Schemas["SheetAsked"]["side"];

export const queryClient = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 5_000,
      retry: (count, error) => count < 1 && !(error instanceof Refused && error.status >= 400),
    },
  },
});

/** Who is signed in; nobody where nobody has to be. */
export const useSession = () =>
  useQuery({
    queryKey: ["session"],
    queryFn: () => answered(client.GET("/api/session")),
    staleTime: Infinity,
  });

/** Signs out, and leads to the form. */
export const useSignOut = () =>
  useMutation({
    mutationFn: (everywhere: boolean) => client.POST("/api/session/end", { body: { everywhere } }),
    onSettled: () => window.location.assign("/sign-in"),
  });

/** How soon it is asked again for what is being made behind the answers, in milliseconds. */
const SOON = 500;

/** Which part of the shelf: labs whose title, name, level or topics hold a text, of a topic and level, from one on. */
export interface AskedLabs {
  find: string;
  topic: string;
  level: string;
  removed: boolean;
  start: number;
}

export const useLabs = (asked: AskedLabs) =>
  useQuery({
    queryKey: ["labs", asked],
    queryFn: () => answered(client.GET("/api/labs", { params: { query: asked } })),
    placeholderData: keepPreviousData,
    refetchInterval: ({ state }) => (state.data?.labs.some((lab) => lab.card === null) ? SOON : false),
  });

/** A lab, or one of its stages: the last where none is named. */
export const useLab = (slug: string, stage = "") =>
  useQuery({
    queryKey: ["lab", slug, stage],
    enabled: slug !== "",
    queryFn: () => answered(client.GET("/api/labs/{slug}", { params: { path: { slug }, query: { stage } } })),
    placeholderData: (before) => (before?.slug === slug ? before : undefined),
  });

/** The papers of an occasion. */
export const usePapers = (slug: string, occasion: Occasion) =>
  useQuery({
    queryKey: ["papers", slug, occasion],
    queryFn: () =>
      answered(client.GET("/api/labs/{slug}/papers", { params: { path: { slug }, query: occasion } })),
    placeholderData: keepPreviousData,
    refetchInterval: ({ state }) => (state.data?.papers.some(isWaiting) ? 2 * SOON : false),
  });

/** The benches that are kept with a lab. */
export const useBenches = (slug: string) =>
  useQuery({
    queryKey: ["benches", slug],
    queryFn: () => answered(client.GET("/api/labs/{slug}/benches", { params: { path: { slug } } })),
  });

/** The class of an occasion: the grid and its figures, asked anew as long as papers are being marked. */
export const useClass = (slug: string, occasion: Occasion) =>
  useQuery({
    queryKey: ["class", slug, occasion],
    queryFn: () =>
      answered(client.GET("/api/labs/{slug}/class", { params: { path: { slug }, query: occasion } })),
    refetchInterval: ({ state }) => (state.data !== undefined && state.data.waiting > 0 ? 4 * SOON : false),
  });

/** Whether a paper is still to be marked. */
export const isWaiting = (paper: { result: unknown; failure: string | null }) =>
  paper.result === null && paper.failure === null;

export const usePaper = (paper: number) =>
  useQuery({
    queryKey: ["paper", paper],
    queryFn: () => answered(client.GET("/api/papers/{paper}", { params: { path: { paper } } })),
    refetchInterval: ({ state }) => (state.data !== undefined && isWaiting(state.data) ? SOON : false),
  });

/** The newest sittings of a lab beside each other; `asked` only where somebody wants to know. */
export const useTerms = (slug: string, asked: boolean) =>
  useQuery({
    enabled: asked,
    queryKey: ["terms", slug],
    queryFn: () => answered(client.GET("/api/labs/{slug}/terms", { params: { path: { slug } } })),
  });

/** What a paper would earn if a mistake of it were mended; `asked` only where somebody wants to know. */
export const useIfMended = (paper: number, number: number, asked: boolean) =>
  useQuery({
    queryKey: ["paper", paper, "mended", number],
    enabled: asked,
    queryFn: () =>
      answered(client.GET("/api/papers/{paper}/mended/{number}", { params: { path: { paper, number } } })),
    staleTime: 0,
  });

/** The journey of a ping on a paper. */
export const useJourney = (paper: number, number: number) =>
  useQuery({
    queryKey: ["journey", paper, number],
    queryFn: () =>
      answered(client.GET("/api/papers/{paper}/journeys/{number}", { params: { path: { paper, number } } })),
  });

export const useMakeLab = () => {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["NewLab"]) => answered(client.POST("/api/labs", { body })),
    onSuccess: () => cache.invalidateQueries({ queryKey: ["labs"] }),
  });
};

/** Takes a lab file in, under another id where its own is taken. */
export const useImportLab = () => {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["LabImport"]) => answered(client.POST("/api/labs/import", { body })),
    onSuccess: () => cache.invalidateQueries({ queryKey: ["labs"] }),
  });
};

export const useCopyLab = () => {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: (slug: string) =>
      answered(client.POST("/api/labs/{slug}/copy", { params: { path: { slug } } })),
    onSuccess: () => cache.invalidateQueries({ queryKey: ["labs"] }),
  });
};

/** Takes a lab off the shelf, or puts it back. */
export const useRemoveLab = () => {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: ({ slug, removed }: { slug: string; removed: boolean }) =>
      answered(client.POST("/api/labs/{slug}/removed", { params: { path: { slug } }, body: { removed } })),
    onSuccess: () => cache.invalidateQueries({ queryKey: ["labs"] }),
  });
};

/** All versions of a lab, the newest first. */
export const useHistory = (slug: string) =>
  useQuery({
    queryKey: ["history", slug],
    queryFn: () => answered(client.GET("/api/labs/{slug}/history", { params: { path: { slug } } })),
  });

/** A version of a lab with what became of the lab in it. */
export const useVersion = (slug: string, number: number) =>
  useQuery({
    queryKey: ["history", slug, number],
    queryFn: () =>
      answered(client.GET("/api/labs/{slug}/history/{number}", { params: { path: { slug, number } } })),
    placeholderData: keepPreviousData,
  });

export const checkText = (text: string) =>
  answered(client.POST("/api/labs/check", { body: { text, base: 0 } }));

export const completeText = (text: string, line: number, column: number) =>
  answered(client.POST("/api/labs/complete", { body: { text, line, column } }));

export const useSaveLab = (slug: string) => {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: (body: { text: string; base: number }) =>
      answered(client.POST("/api/labs/{slug}/versions", { params: { path: { slug } }, body })),
    onSuccess: () => cache.invalidateQueries(),
    onError: (error) => {
      if (error instanceof Refused && error.status === 409)
        void cache.invalidateQueries({ queryKey: ["lab", slug] });
    },
  });
};

/** What becomes of a paper whose learner has one already, or is called nearly like somebody who has. */
export type Decision = "replace" | "add" | "apart" | "leave";

/** An upload: files, whose they are where they are one learner's, and how names of flat archives are made up. */
export interface HandIn {
  files: File[];
  learner: string;
  occasion: Occasion;
  pattern: string;
  /** Whether what comes of the pattern was shown; else that is the answer. */
  shown: boolean;
  /** Which question `decided` answers. */
  seen: string;
  decided: Record<string, Decision>;
  /** By the name in the archive whose paper it is; empty for nobody's. */
  matched: Record<string, string>;
  /** Names that get a seat in the sitting. */
  newcomers: string[];
}

/** Makes a paper the one of its learner that counts, or leaves that to the rules again. */
export const useCount = (paper: number) => {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["Counting"]) =>
      answered(client.POST("/api/papers/{paper}/count", { params: { path: { paper } }, body })),
    onSuccess: () => cache.invalidateQueries(),
  });
};

/** Has a paper marked again that could not be marked. */
export const useMarkAgain = (paper: number) => {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: () => answered(client.POST("/api/papers/{paper}/marking", { params: { path: { paper } } })),
    onSuccess: () => cache.invalidateQueries({ queryKey: ["paper", paper] }),
  });
};

/** Overrules a criterion or the total of a paper; marks null take it back. */
export const useOverrule = (paper: number) => {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["Overruling"]) =>
      answered(client.POST("/api/papers/{paper}/overrules", { params: { path: { paper } }, body })),
    onSuccess: () => cache.invalidateQueries(),
  });
};

export const useUpload = (slug: string) => {
  const cache = useQueryClient();
  return useMutation({
    mutationFn: ({ files, learner, occasion, pattern, shown, seen, decided, matched, newcomers }: HandIn) => {
      const form = new FormData();
      files.forEach((file) => form.append("files", file, file.name)); // with its path, in a folder
      form.append("learner", learner);
      form.append("stage", occasion.stage);
      form.append("sitting", String(occasion.sitting));
      form.append("pattern", pattern);
      form.append("shown", String(shown));
      form.append("seen", seen);
      form.append("decided", JSON.stringify(decided));
      form.append("matched", JSON.stringify(matched));
      form.append("newcomers", JSON.stringify(newcomers));
      return answered(
        client.POST("/api/labs/{slug}/papers", {
          params: { path: { slug } },
          body: form as never,
          bodySerializer: (body: unknown) => body as FormData,
        }),
      );
    },
    onSuccess: () => cache.invalidateQueries(),
  });
};
