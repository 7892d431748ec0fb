// A line of genes: pressing a choice writes it into the line, which is then read anew.
export function answerLines() {
  document.addEventListener("click", (event) => {
    const pressed = event.target.closest("[data-line]");
    const line = document.getElementById("line");
    if (!pressed || !line) return;
    line.value = pressed.dataset.line;
    line.dispatchEvent(new Event("input", { bubbles: true }));
    line.focus();
  });
}
