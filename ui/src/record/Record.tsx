import { Box, Flex, Grid } from "@chakra-ui/react";
import { useInfiniteQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useAct } from "../app/act";
import { api, ask, type Schemas } from "../app/api";
import { useRead } from "../app/read";
import { useMe } from "../app/reads";
import { Sensitivities } from "../app/Sensitivities";
import { Choose, Entry, Heading, Plain, Refusal, Teach } from "../parts/controls";
import { clockTime, day, dayTime } from "../parts/format";
import { RoomHead } from "../parts/Room";

/** Who did what, when, from which device; and what is signed in. */
export default function Record() {
  const me = useMe();
  if (!me.data?.person) return null;
  return (
    <Box>
      <RoomHead title="The record" aside="who did what, when, from which device" />
      <Grid templateColumns={{ base: "1fr", lg: "minmax(0,1fr) 340px" }} gap="36px">
        {me.data.person.role === "lead" ? (
          <Entries />
        ) : (
          <Teach>The record of the whole shop is for leads. What happened to one piece stands on its page, for everybody.</Teach>
        )}
        <Box>
          <SignedIn />
          <Mine />
          {!me.data.demo && <Password />}
          {me.data.person.role === "lead" && <Accounts me={me.data.person.id} />}
        </Box>
      </Grid>
    </Box>
  );
}

/** What whoever is signed in may not take: it meets the work that they are given. */
function Mine() {
  const [open, setOpen] = useState(false);
  const facts = useRead({ queryKey: ["sensitivities", "me"], queryFn: () => ask(api.GET("/api/me/sensitivities")) });
  return (
    <Box mt="22px">
      <Heading
        aside={
          <Box as="button" textDecoration="underline" onClick={() => setOpen(!open)}>
            record
          </Box>
        }
      >
        What I may not touch
      </Heading>
      <Sensitivities
        facts={facts.data ?? []}
        none="Nothing recorded. What stands here is asked about when you mix, weigh or coat."
        record={(body) => ask(api.POST("/api/me/sensitivities", { body }))}
        erase={(fact) => ask(api.DELETE("/api/me/sensitivities/{fact}", { params: { path: { fact } } }))}
        open={open}
        setOpen={setOpen}
      />
    </Box>
  );
}

type Narrow = { person: string; day: string; words: string };

function Entries() {
  const people = useRead({ queryKey: ["people"], queryFn: () => ask(api.GET("/api/people")), staleTime: 60_000 });
  const [by, setBy] = useState<Narrow>({ person: "", day: "", words: "" });
  const pages = useInfiniteQuery({
    queryKey: ["record", by],
    initialPageParam: 0,
    queryFn: ({ pageParam }) =>
      ask(api.GET("/api/record", { params: { query: { person: Number(by.person), day: by.day, words: by.words, before: pageParam } } })),
    getNextPageParam: (last: Schemas["JournalPage"]) => (last.more ? last.entries.at(-1)?.id : undefined),
  });
  const entries = pages.data?.pages.flatMap((p) => p.entries) ?? [];
  return (
    <Box>
      <Flex gap="12px" mb="14px">
        <Choose label="By" name="person" value={by.person} set={(person) => setBy({ ...by, person })} width="200px">
          <option value="">anybody</option>
          {people.data?.map((p) => (
            <option key={p.id} value={p.id}>
              {p.name}
            </option>
          ))}
        </Choose>
        <Entry label="On" name="day" type="date" value={by.day} set={(d) => setBy({ ...by, day: d })} width="180px" />
        <Entry label="About" name="words" value={by.words} set={(words) => setBy({ ...by, words })} placeholder="BF-03, weighed, 24-117" />
      </Flex>
      {pages.error && <Refusal problem={pages.error as never} />}
      {entries.length === 0 && pages.data && <Box color="muted">Nothing of that is in the record.</Box>}
      {entries.map((e, i) => (
        <Box key={e.id}>
          {(i === 0 || day(entries[i - 1]?.at ?? "") !== day(e.at)) && (
            <Box mt={i ? "14px" : 0}>
              <Heading>{day(e.at)}</Heading>
            </Box>
          )}
          <Grid templateColumns="52px 130px minmax(0,1fr) 160px" gap="12px" py="4px" borderBottomWidth="1px" borderColor="line" fontSize="14.5px">
            <Box color="muted">{clockTime(e.at)}</Box>
            <Box fontWeight="600" overflowWrap="anywhere">
              {e.code || e.kind}
            </Box>
            <Box>
              {e.act}
              {e.words && <Box as="span" color="muted">{`, ${e.words}`}</Box>}
            </Box>
            <Box textAlign="right">
              {e.who || "the program"}
              <Box layerStyle="small">{e.device}</Box>
            </Box>
          </Grid>
        </Box>
      ))}
      {pages.hasNextPage && (
        <Box mt="14px">
          <Plain onClick={() => void pages.fetchNextPage()} disabled={pages.isFetchingNextPage}>
            Older
          </Plain>
        </Box>
      )}
    </Box>
  );
}

function SignedIn() {
  const list = useRead({ queryKey: ["sign-ins"], queryFn: () => ask(api.GET("/api/sign-ins")) });
  const end = useAct((id: number) => ask(api.DELETE("/api/sign-ins/{id}", { params: { path: { id } } })));
  return (
    <Box>
      <Heading>Signed in</Heading>
      {list.data?.map((s) => (
        <Flex key={s.id} py="7px" borderBottomWidth="1px" borderColor="line" gap="10px" align="center">
          <Box flex="1" minW="0">
            <b>{s.name}</b>
            {s.this && (
              <Box as="span" color="muted">
                {" · here"}
              </Box>
            )}
            <Box layerStyle="small">
              {s.device}, {s.address}
            </Box>
            <Box layerStyle="small">
              since {dayTime(s.at)}, seen {dayTime(s.seen_at)}
            </Box>
          </Box>
          {!s.this && (
            <Plain h="32px" onClick={() => void end.run(s.id)} aria-label={`End ${s.name} on ${s.device}`}>
              End
            </Plain>
          )}
        </Flex>
      ))}
      <Refusal problem={end.problem} />
      <Box layerStyle="small" mt="10px" mb="22px">
        A sign-in ends after three days unseen, and after fourteen in any case.
      </Box>
    </Box>
  );
}

function Password() {
  const [entered, setEntered] = useState({ old: "", password: "" });
  const [done, setDone] = useState(false);
  const change = useAct(async () => {
    setDone(false);
    await ask(api.PUT("/api/me/password", { body: entered }));
    setEntered({ old: "", password: "" });
    setDone(true);
  });
  return (
    <Flex direction="column" gap="10px">
      <Heading>Your password</Heading>
      <Entry
        label="As it is"
        name="old"
        type="password"
        value={entered.old}
        problem={change.problem}
        set={(old) => setEntered({ ...entered, old })}
      />
      <Entry
        label="As it shall be, at least 12 characters"
        name="password"
        type="password"
        value={entered.password}
        problem={change.problem}
        set={(password) => setEntered({ ...entered, password })}
      />
      <Flex gap="12px" align="center">
        <Plain onClick={() => void change.run()} disabled={change.busy}>
          Change it
        </Plain>
        {done && <Box color="muted">Changed. Your other sign-ins have ended.</Box>}
      </Flex>
      <Refusal problem={change.problem} />
    </Flex>
  );
}

function Accounts({ me }: { me: number }) {
  const people = useRead({ queryKey: ["people"], queryFn: () => ask(api.GET("/api/people")) });
  const close = useAct((id: number) => ask(api.DELETE("/api/people/{id}", { params: { path: { id } } })));
  const [sure, setSure] = useState<number>();
  return (
    <Box mt="26px">
      <Heading>Accounts</Heading>
      {people.data?.map((p) => (
        <Flex key={p.id} py="5px" gap="10px" align="center" borderBottomWidth="1px" borderColor="line">
          <Box flex="1">
            {p.name}{" "}
            <Box as="span" color="muted">
              {p.role}
            </Box>
          </Box>
          {p.id !== me && (
            <Plain h="32px" aria-label={`Close the account of ${p.name}`} onClick={() => (sure === p.id ? void close.run(p.id) : setSure(p.id))}>
              {sure === p.id ? "Yes, close it" : "Close"}
            </Plain>
          )}
        </Flex>
      ))}
      <Refusal problem={close.problem} />
      <Box layerStyle="small" mt="10px">
        What somebody did stays in the record.
      </Box>
      <NewAccount />
    </Box>
  );
}

/** A colleague's account, or the closed one of that name opened again. */
function NewAccount() {
  const [login, setLogin] = useState("");
  const [name, setName] = useState("");
  const [role, setRole] = useState<"lead" | "fabricator" | "apprentice">("fabricator");
  const [password, setPassword] = useState("");
  const [made, setMade] = useState("");
  const make = useAct(async () => {
    await ask(api.POST("/api/people", { body: { login, name, role, password } }));
    setMade(`${name} may sign in as ${login.trim()} now.`);
    setLogin("");
    setName("");
    setPassword("");
  });
  return (
    <Box as="details" mt="12px">
      <summary>Make an account, or open a closed one again</summary>
      <Flex direction="column" gap="8px" mt="8px">
        <Entry label="Name" name="name" value={name} set={setName} problem={make.problem} />
        <Entry label="Signs in as" name="login" value={login} set={setLogin} problem={make.problem} />
        <Choose label="Works as" name="role" value={role} set={(r) => setRole(r as typeof role)} problem={make.problem}>
          <option>fabricator</option>
          <option>apprentice</option>
          <option>lead</option>
        </Choose>
        <Entry
          label="First password"
          name="password"
          type="password"
          value={password}
          set={setPassword}
          problem={make.problem}
          hint="At least twelve characters; they change it themselves."
        />
        <Flex gap="10px" align="center">
          <Plain h="36px" disabled={make.busy || !login.trim() || !name.trim()} onClick={() => void make.run()}>
            Make it
          </Plain>
          {made && !make.problem && <Box color="muted">{made}</Box>}
        </Flex>
        <Refusal problem={make.problem} />
      </Flex>
    </Box>
  );
}
