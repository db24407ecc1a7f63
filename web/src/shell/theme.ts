/** showTheme shows the theme somebody has chosen, and remembers it for the page before sign-in. */
export function showTheme(theme: string) {
  document.documentElement.classList.toggle("bench", theme === "bench");
  localStorage.setItem("theme", theme);
}
