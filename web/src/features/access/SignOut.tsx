/** Ends this browser's session, where there is one. */
import { signOut, useSession } from "../../api/access";
import { tellProblem } from "../../shared/notices";
import { QuietButton } from "../../shared/parts";

export function SignOut() {
  const session = useSession();
  if (!session.data?.needed) return null;
  return <QuietButton onClick={() => void signOut().catch(tellProblem)}>Sign out</QuietButton>;
}
