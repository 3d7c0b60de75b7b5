// Sets the theme before anything is drawn, so that a dark page does not flash white.
(() => {
  const stored = localStorage.getItem("inchmark-theme");
  const theme = stored || (matchMedia("(prefers-color-scheme: dark)").matches ? "dark" : "light");
  document.documentElement.dataset.theme = theme;
  document.documentElement.dataset.bsTheme = theme === "dark" ? "dark" : "light";
})();
