/** Kinds of browsers and systems as their user agents name them, the more special first. */
const BROWSERS = [
  ["Edg/", "Edge"],
  ["Firefox/", "Firefox"],
  ["Chrome/", "Chrome"],
  ["Safari/", "Safari"],
] as const;
const SYSTEMS = [
  ["Android", "Android"],
  ["iPhone", "iPhone"],
  ["iPad", "iPad"],
  ["Windows", "Windows"],
  ["Mac OS", "Mac"],
  ["Linux", "Linux"],
] as const;

/** What a person calls a browser, of its user agent. */
export function browserIn(agent: string): string {
  const of = (kinds: readonly (readonly [string, string])[]) =>
    kinds.find(([sign]) => agent.includes(sign))?.[1];
  const [browser, system] = [of(BROWSERS), of(SYSTEMS)];
  if (!browser) return "A program";
  return system ? `${browser} on ${system}` : browser;
}
