import { screen } from "@testing-library/react";
import userEvents from "@testing-library/user-event";

/** Keys and pointer without waiting between them. */
const userEvent = userEvents.setup({ delay: null });

/** Types an entry (the first of that name) and leaves it with Enter. */
export async function enter(label: string, text: string) {
  const [input] = await screen.findAllByRole<HTMLInputElement>("textbox", { name: label });
  if (!input) throw new Error(`There is no entry '${label}'.`);
  await userEvent.clear(input);
  await userEvent.type(input, `${text}{Enter}`);
}

/** Opens a list by its label and takes an option of it. */
export async function choose(label: string, option: string) {
  screen.getByRole("combobox", { name: label }).focus();
  await userEvent.keyboard("{Enter}");
  await userEvent.click(await screen.findByRole("option", { name: option }));
}

export const press = async (name: string | RegExp) => userEvent.click(await screen.findByRole("button", { name }));
