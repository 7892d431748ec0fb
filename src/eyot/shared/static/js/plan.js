// The planner: the number beside a slider follows it.
export function countEggs() {
  document.addEventListener("input", (event) => {
    const count = document.querySelector(`[data-count-of="${event.target.name}"]`);
    if (count && event.target.type === "range") count.textContent = event.target.value;
  });
}
