import { useQuery } from "@tanstack/react-query";

import { api, data, type Schemas } from "../../api/client";

/** The shipped fonts, each with a sample. */
export function useFonts(): readonly Schemas["FontOut"][] {
  const fonts = useQuery({
    queryKey: ["fonts"],
    queryFn: ({ signal }) => data(api.GET("/api/fonts", { signal })),
    staleTime: Infinity,
  });
  return fonts.data?.fonts ?? [];
}
