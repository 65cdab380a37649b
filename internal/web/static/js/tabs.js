// Where a row of tabs is wider than the screen, the one that is open is in sight.
(() => {
  const open = document.querySelector(".top .tabs [aria-current]");
  if (open) open.scrollIntoView({ block: "nearest", inline: "center" });
})();
