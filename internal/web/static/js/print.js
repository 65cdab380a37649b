// A button that prints the page.
document.addEventListener("click", (e) => {
  if (e.target.closest("[data-print]")) print();
});
