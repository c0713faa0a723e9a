import { Box, Flex, Text } from "@chakra-ui/react";
import { useState } from "react";
import { Entry, Go, Refusal } from "../parts/controls";
import { useAct } from "./act";
import { api, ask } from "./api";
import { useRead } from "./read";

/** The door. In the demo it offers the demo people. */
export function SignIn({ demo, offline }: { demo: boolean; offline: boolean }) {
  const people = useRead({ queryKey: ["people"], enabled: demo, queryFn: () => ask(api.GET("/api/sign-in/people")) });
  const [login, setLogin] = useState("");
  const [password, setPassword] = useState("");
  const enter = useAct((who: string, secret?: string) => ask(api.POST("/api/sign-in", { body: { login: who, password: secret } })));
  return (
    <Flex h="100%" align="center" justify="center" direction="column" gap="22px" px="20px">
      <Box textAlign="center">
        <Text fontSize="38px" fontWeight="700" lineHeight="1.1">
          Yewmoor
        </Text>
        <Text color="muted" fontSize="17px">
          From the brief to the makeup artist's signature.
        </Text>
      </Box>
      {offline && <Text color="rust">The workshop's server does not answer. It is tried again by itself.</Text>}
      {demo ? (
        <>
          <Text>This is the demo. Who are you today?</Text>
          <Flex gap="16px" wrap="wrap" justify="center">
            {people.data?.map((p) => (
              <Box
                as="button"
                key={p.login}
                onClick={() => void enter.run(p.login)}
                bg="sheet"
                borderWidth="1.5px"
                borderColor="ink"
                borderRadius="4px 22px 22px 4px"
                ps="20px"
                pe="34px"
                py="14px"
                textAlign="left"
                _hover={{ bg: "yewSoft" }}
              >
                <Box fontWeight="700" fontSize="19px">
                  {p.name}
                </Box>
                <Box color="muted">{p.role}</Box>
              </Box>
            ))}
          </Flex>
        </>
      ) : (
        <Flex
          as="form"
          direction="column"
          gap="12px"
          w="320px"
          onSubmit={(e) => {
            e.preventDefault();
            void enter.run(login, password);
          }}
        >
          <Entry label="Name" name="login" value={login} set={setLogin} problem={enter.problem} />
          <Entry label="Password" name="password" type="password" value={password} set={setPassword} problem={enter.problem} />
          <Go type="submit" disabled={enter.busy}>
            Come in
          </Go>
        </Flex>
      )}
      <Refusal problem={enter.problem} />
    </Flex>
  );
}
