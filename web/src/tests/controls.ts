import { screen } from "@testing-library/react";
import userEvents from "@testing-library/user-event";

/** Keys and pointer without waiting between them. */
const userEvent = userEvents.setup({ delay: null });

/** Gives an entry (the first of that name) all at once, and leaves it with Enter. */
export async function enter(label: string, text: string) {
  const [input] = await screen.findAllByLabelText<HTMLInputElement>(label, { selector: "input, textarea" });
  if (!input) throw new Error(`There is no entry '${label}'.`);
  await userEvent.clear(input);
  await userEvent.paste(text);
  await userEvent.keyboard("{Enter}");
}

/** Opens a list by its label and takes an option of it. */
export async function choose(label: string, option: string) {
  screen.getByRole("combobox", { name: label }).focus();
  await userEvent.keyboard("{Enter}");
  await userEvent.click(await screen.findByRole("option", { name: option }));
}

export const press = async (name: string | RegExp, role = "button") =>
  userEvent.click(await screen.findByRole(role, { name }));
