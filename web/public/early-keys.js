// Keeps what is typed before the page is there; src/ui/late-keys.ts takes it over. A file of its own: the policy allows no
// script inside the page, and this one has to run before the bundle is fetched.
(() => {
  const kept = [];
  const keep = (event) => {
    if (event.ctrlKey || event.metaKey || event.altKey || event.isComposing) return;
    if (event.key.length === 1 || event.key === "Backspace" || event.key === "Enter") kept.push(event.key);
  };
  addEventListener("keydown", keep, true);
  window.pukkaEarlyKeys = () => {
    removeEventListener("keydown", keep, true);
    return kept;
  };
})();
