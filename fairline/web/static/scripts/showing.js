// A password is shown while it is typed, where that is asked for.
for (const offered of document.querySelectorAll("[data-shown]")) offered.hidden = false;
document.addEventListener("change", ({ target }) => {
  if (!target.matches("[data-shows]")) return;
  for (const field of target.form.querySelectorAll("[data-secret]")) {
    field.type = target.checked ? "text" : "password";
  }
});
