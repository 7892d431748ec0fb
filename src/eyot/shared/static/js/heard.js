// What was said of this one and a sibling goes into the form "Beside a sibling", and is kept.
export function layBesideAsHeard() {
  document.addEventListener("click", (event) => {
    const pressed = event.target.closest("[data-beside]");
    const form = document.querySelector(".beside-form");
    if (!pressed || !form) return;
    for (const [name, value] of [["what", pressed.dataset.beside], ["other", pressed.dataset.other]]) {
      const choice = form.elements[name];
      if (![...choice.options].some((option) => option.value === value)) choice.add(new Option(value, value));
      choice.value = value;
    }
    form.requestSubmit();
    pressed.disabled = true;
  });
}
