import { chakra } from "@chakra-ui/react";
import { notice } from "../app/theme";

/** A sentence in its own frame: good, look first, or stop. */
export const Notice = chakra("div", notice);
