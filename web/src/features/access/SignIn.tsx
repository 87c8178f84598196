/** In place of every page, where the server asks for its password first. */
import { Flex, Input, Text } from "@chakra-ui/react";
import { type FormEvent, useState } from "react";
import { signIn } from "../../api/access";
import { Problem } from "../../api/client";
import { Mark } from "../../shared/Mark";
import { PrimaryButton } from "../../shared/parts";

export function SignIn() {
  const [password, setPassword] = useState("");
  const [problem, setProblem] = useState("");
  const [asking, setAsking] = useState(false);
  const submit = async (event: FormEvent) => {
    event.preventDefault();
    setAsking(true);
    try {
      await signIn(password);
    } catch (error) {
      setProblem(error instanceof Problem ? `${error.message}. ${error.help}` : String(error));
      setPassword("");
      setAsking(false);
    }
  };
  return (
    <Flex as="main" h="100%" align="center" justify="center" p={6}>
      <form onSubmit={submit}>
        <Flex direction="column" gap={3} w="20rem">
          <Mark />
          <title>Sign in · Wedge Turn</title>
          <Text textStyle="part" as="h1">
            Sign in to Wedge Turn
          </Text>
          <Text layerStyle="quiet">This server asks for its password.</Text>
          <Input
            type="password"
            autoComplete="current-password"
            autoFocus
            size="sm"
            aria-label="Password"
            aria-describedby="sign-in-problem"
            value={password}
            onChange={(event) => setPassword(event.target.value)}
          />
          <Text layerStyle="danger" id="sign-in-problem" role="alert" minH={5}>
            {problem}
          </Text>
          <PrimaryButton type="submit" disabled={!password} loading={asking}>
            Sign in
          </PrimaryButton>
        </Flex>
      </form>
    </Flex>
  );
}
