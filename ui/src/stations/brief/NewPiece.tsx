import { Box, Flex, Grid } from "@chakra-ui/react";
import { useState } from "react";
import { useNavigate } from "react-router";
import { useAct } from "../../app/act";
import { api, ask } from "../../app/api";
import { usePieces, useRegions } from "../../app/reads";
import { Choose, Entry, Go, Refusal } from "../../parts/controls";
import { RoomHead } from "../../parts/Room";

/** Begins a piece: who it is for, where it is worn, how many. */
export default function NewPiece() {
  const pieces = usePieces();
  const regions = useRegions();
  const navigate = useNavigate();
  const known = pieces.data ?? [];
  const [production, setProduction] = useState("");
  const [code, setCode] = useState("");
  const [character, setCharacter] = useState("");
  const [performer, setPerformer] = useState("");
  const [name, setName] = useState("");
  const [region, setRegion] = useState("cheek");
  const [side, setSide] = useState<"" | "L" | "R">("");
  const [copies, setCopies] = useState("2");
  const begin = useAct(async () => {
    const p = await ask(
      api.POST("/api/pieces", {
        body: {
          production: production || known[0]?.production || "",
          character_code: code,
          character_name: character,
          performer,
          name,
          region,
          side,
          copies_wanted: Number(copies) || 0,
        },
      }),
    );
    navigate(`/brief/${p.code}`);
  });
  const existing = known.find((p) => p.character_code === code.trim().toUpperCase());
  const place = regions.data?.find((r) => r.name === region);
  const unique = (list: (string | undefined)[]) => [...new Set(list.filter((s): s is string => !!s))];
  return (
    <Box maxW="760px">
      <RoomHead title="Begin a piece" aside="It gets its code and tag at once; the rest of the brief follows." />
      <Grid templateColumns="1fr 1fr" gap="14px 22px">
        <Entry
          label="Production"
          name="production"
          value={production}
          set={setProduction}
          problem={begin.problem}
          placeholder={known[0]?.production ?? "The show it is for"}
          suggestions={unique(known.map((p) => p.production))}
        />
        <Entry
          label="Performer"
          name="performer"
          value={performer}
          set={setPerformer}
          problem={begin.problem}
          placeholder={existing?.performer ?? "may stay open"}
          suggestions={unique(known.map((p) => p.performer))}
        />
        <Entry
          label="Character, its code"
          name="character_code"
          value={code}
          set={setCode}
          problem={begin.problem}
          placeholder="BF"
          suggestions={unique(known.map((p) => p.character_code))}
        />
        <Entry
          label="Character, its name"
          name="character_name"
          value={character}
          set={setCharacter}
          problem={begin.problem}
          placeholder={existing?.character_name ?? "the bell-founder"}
        />
        <Entry label="What the piece is called" name="name" value={name} set={setName} problem={begin.problem} placeholder="Left cheek, barnacled" />
        <Entry label="Copies wanted" name="copies_wanted" value={copies} set={setCopies} problem={begin.problem} />
        <Choose label="Where it is worn" name="region" value={region} set={setRegion} problem={begin.problem}>
          {regions.data?.map((r) => (
            <option key={r.name} value={r.name}>
              {r.text}
            </option>
          ))}
        </Choose>
        {place?.sided ? (
          <Choose label="One of a pair?" name="side" value={side} set={(s) => setSide(s as "" | "L" | "R")} problem={begin.problem}>
            <option value="">no</option>
            <option value="L">the wearer's left</option>
            <option value="R">the wearer's right</option>
          </Choose>
        ) : (
          <Box />
        )}
      </Grid>
      <Flex gap="14px" mt="18px" align="center">
        <Go act={() => void begin.run()} disabled={begin.busy}>
          Begin the piece
        </Go>
        <Refusal problem={begin.problem} />
      </Flex>
    </Box>
  );
}
