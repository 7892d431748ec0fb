// A line of genes: pressing a choice writes it into the line, which is then read anew. Until then no other choice can be
// pressed: each stands for the line as it was.
export function answerLines() {
  document.addEventListener("click", (event) => {
    const pressed = event.target.closest("[data-line]");
    const line = document.getElementById("line");
    if (!pressed || !line) return;
    for (const choice of document.querySelectorAll("[data-line]")) choice.disabled = true;
    line.value = pressed.dataset.line;
    line.dispatchEvent(new Event("input", { bubbles: true }));
    line.focus();
  });
}
