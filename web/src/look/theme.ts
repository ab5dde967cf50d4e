export type Theme = "system" | "day" | "plant";

const KEY = "ruhe.theme";

export function rememberedTheme(): Theme {
  const kept = localStorage.getItem(KEY);
  return kept === "day" || kept === "plant" ? kept : "system";
}

/** Day for the roof, plant room for the dark; otherwise what the device says. */
export function setTheme(theme: Theme) {
  if (theme === "system") delete document.documentElement.dataset["theme"];
  else document.documentElement.dataset["theme"] = theme;
  localStorage.setItem(KEY, theme);
}
