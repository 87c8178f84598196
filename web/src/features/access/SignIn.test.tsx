import { fireEvent, screen, waitFor } from "@testing-library/react";
import { expect, it, vi } from "vitest";
import { access, client, problemFrom } from "../../api/client";
import { show } from "../../shared/testing";
import { SignIn } from "./SignIn";
import { SignOut } from "./SignOut";

const answer = (status: number, error?: object) =>
  Promise.resolve({ response: new Response(null, { status }), data: undefined, error }) as never;

it("says what is wrong with a password, and takes the next one", async () => {
  const reload = vi.fn();
  vi.stubGlobal("location", { reload });
  const post = vi
    .spyOn(client, "POST")
    .mockReturnValueOnce(
      answer(403, { code: "wrong-password", message: "This is not the password", help: "Type it again." }),
    )
    .mockReturnValueOnce(answer(204));
  show(<SignIn />);
  const field = screen.getByLabelText("Password") as HTMLInputElement;
  fireEvent.change(field, { target: { value: "seven" } });
  fireEvent.click(screen.getByRole("button", { name: "Sign in" }));
  expect(await screen.findByText("This is not the password. Type it again.")).toBeTruthy();
  expect(field.value).toBe("");
  fireEvent.change(field, { target: { value: "eight" } });
  fireEvent.click(screen.getByRole("button", { name: "Sign in" }));
  await waitFor(() => expect(reload).toHaveBeenCalled());
  expect(post).toHaveBeenLastCalledWith("/api/session", { body: { password: "eight" } });
  vi.unstubAllGlobals();
});

it("is asked for by any answer that says so", () => {
  expect(access.getState().asked).toBe(false);
  problemFrom({ code: "sign-in", message: "This server asks for its password", help: "" }, 401);
  expect(access.getState().asked).toBe(true);
  access.setState({ asked: false });
});

it("offers to sign out where there is a password", async () => {
  const { queries, again } = show(<SignOut />);
  expect(screen.queryByText("Sign out")).toBeNull();
  queries.setQueryData(["session"], { needed: true, signed_in: true });
  again(<SignOut />);
  expect(await screen.findByText("Sign out")).toBeTruthy();
});
