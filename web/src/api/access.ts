/** Signing in and out, where the server has a password. */
import { useQuery } from "@tanstack/react-query";
import { client, unwrap } from "./client";

/** Whether there is a password at all, and this browser has said it. */
export const useSession = () =>
  useQuery({ queryKey: ["session"], queryFn: () => unwrap(client.GET("/api/session")), staleTime: Infinity });

/** Sign in, and load everything that was refused before. */
export async function signIn(password: string) {
  await unwrap(client.POST("/api/session", { body: { password } }));
  window.location.reload();
}

export async function signOut() {
  await unwrap(client.DELETE("/api/session"));
  window.location.assign("/");
}
