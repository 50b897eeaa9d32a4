// Passkeys: made on one's own page, and signed in with. They need a secure page that has a name.

const named = !/^[\d.]+$|^\[/.test(location.hostname);
const able = window.isSecureContext && named && window.PublicKeyCredential?.parseCreationOptionsFromJSON;

const post = async (path, sent) => {
  const response = await fetch(path, {
    method: "POST",
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify(sent ?? {}),
  });
  const told = await response.json();
  if (!response.ok) throw new Error(told.detail);
  return told;
};
const HOW = {
  make: (options) => navigator.credentials.create({
    publicKey: window.PublicKeyCredential.parseCreationOptionsFromJSON(options),
  }),
  use: (options) => navigator.credentials.get({
    publicKey: window.PublicKeyCredential.parseRequestOptionsFromJSON(options),
  }),
};
const pressed = async (button) => {
  const { passkey: how, at } = button.dataset;
  const told = document.getElementById("passkey-told");
  told.textContent = "";
  try {
    const credential = await HOW[how](await post(`${at}/begin`));
    const { to } = await post(at, { credential: credential.toJSON(), back: button.dataset.back });
    location.assign(to);
  } catch (error) {
    // Whoever closes the phone's own window wants nothing said.
    if (error.name !== "NotAllowedError") told.textContent = error.message;
  }
};
for (const button of document.querySelectorAll("[data-passkey]")) {
  button.closest("[hidden]").hidden = !able;
  button.addEventListener("click", () => pressed(button));
}
