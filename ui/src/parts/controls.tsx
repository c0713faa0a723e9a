import { Box, Button, type ButtonProps, Field, Flex, Input, NativeSelect, Text, Textarea } from "@chakra-ui/react";
import type { ChangeEvent, ReactNode } from "react";
import type { Problem } from "../app/api";
import { useKey } from "../app/keys";
import { Notice } from "./Notice";
import { useIsAtAField, useProblemAt } from "./shown";

/** A key's cap, as it is printed on the keyboard. */
export function Cap({ children }: { children: ReactNode }) {
  return (
    <Box
      as="kbd"
      // A phone has no keys to press.
      display={{ base: "none", lg: "inline" }}
      fontFamily="body"
      fontSize="12px"
      fontWeight="600"
      px="7px"
      py="1px"
      borderWidth="1px"
      borderBottomWidth="3px"
      borderColor="currentColor"
      borderRadius="6px"
      opacity="0.85"
    >
      {children}
    </Box>
  );
}

/** The room's next thing. Space does it. */
export function Go({ children, act, big, ...rest }: { children: ReactNode; act?: () => void; big?: boolean } & Omit<ButtonProps, "onClick">) {
  useKey("Space", typeof children === "string" ? children : "the next thing", rest.disabled ? undefined : act);
  return (
    <Button
      onClick={act}
      bg="yew"
      color="onYew"
      borderRadius="full"
      h={big ? "64px" : "48px"}
      px={big ? "34px" : "26px"}
      fontSize={big ? "20px" : "17px"}
      fontWeight="600"
      gap="14px"
      _hover={{ filter: "brightness(1.12)" }}
      {...rest}
    >
      <Box as="span" display={{ base: "none", md: "inline" }}>
        <Cap>space</Cap>
      </Box>
      {children}
    </Button>
  );
}

/** A second choice: plain words with an outline. */
export function Plain({ children, ...rest }: ButtonProps) {
  return (
    <Button
      variant="outline"
      borderColor="line"
      borderWidth="1.5px"
      color="ink"
      bg="transparent"
      borderRadius="full"
      h="40px"
      px="18px"
      fontSize="15px"
      fontWeight="500"
      _hover={{ bg: "deep" }}
      {...rest}
    >
      {children}
    </Button>
  );
}

const fieldStyle = {
  bg: "sheet",
  borderColor: "line",
  borderWidth: "1.5px",
  borderRadius: "8px",
  h: "40px",
  px: "12px",
  fontSize: "15px",
  color: "ink",
} as const;

interface FieldProps {
  label: string;
  name: string;
  value: string;
  set: (value: string) => void;
  problem?: Problem;
  hint?: string;
  placeholder?: string;
  type?: string;
  children?: ReactNode;
  rows?: number;
  width?: string;
  suggestions?: string[];
}

/** One entry with its label, and the server's no right under it. */
export function Entry({ label, name, value, set, problem, hint, placeholder, type, rows, width, suggestions }: FieldProps) {
  const wrong = useProblemAt(problem, name);
  const list = suggestions ? `${name}-list` : undefined;
  const change = (e: ChangeEvent<HTMLInputElement | HTMLTextAreaElement>) => set(e.target.value);
  return (
    <Field.Root invalid={!!wrong} w={width}>
      <Field.Label fontSize="13.5px" color="muted" fontWeight="500">
        {label}
      </Field.Label>
      {rows ? (
        <Textarea {...fieldStyle} h="auto" py="8px" rows={rows} name={name} value={value} placeholder={placeholder} onChange={change} />
      ) : (
        <Input
          {...fieldStyle}
          type={type ?? "text"}
          name={name}
          value={value}
          placeholder={placeholder}
          list={list}
          autoComplete="off"
          onChange={change}
        />
      )}
      {list && (
        <datalist id={list}>
          {suggestions?.map((s) => (
            <option key={s} value={s} />
          ))}
        </datalist>
      )}
      {wrong ? (
        <Field.ErrorText color="rust" fontSize="13.5px">
          {wrong}
        </Field.ErrorText>
      ) : (
        hint && <Field.HelperText color="muted">{hint}</Field.HelperText>
      )}
    </Field.Root>
  );
}

/** Narrows a list down by what is typed. */
export function Narrow({ what, value, set, width }: { what: string; value: string; set: (text: string) => void; width?: string }) {
  return (
    <Input
      {...fieldStyle}
      w={width}
      h="38px"
      placeholder="narrow down"
      aria-label={`Narrow the ${what} down`}
      value={value}
      onChange={(e) => set(e.target.value)}
    />
  );
}

/** One choice among a few. */
export function Choose({ label, name, value, set, problem, children, width }: FieldProps) {
  const wrong = useProblemAt(problem, name);
  return (
    <Field.Root invalid={!!wrong} w={width}>
      <Field.Label fontSize="13.5px" color="muted" fontWeight="500">
        {label}
      </Field.Label>
      <NativeSelect.Root>
        <NativeSelect.Field {...fieldStyle} name={name} value={value} onChange={(e) => set(e.target.value)}>
          {children}
        </NativeSelect.Field>
        <NativeSelect.Indicator />
      </NativeSelect.Root>
      {wrong && (
        <Field.ErrorText color="rust" fontSize="13.5px">
          {wrong}
        </Field.ErrorText>
      )}
    </Field.Root>
  );
}

/** The same without a label on the screen: its name is read aloud only. */
export function Pick({
  label,
  value,
  set,
  children,
  width,
  disabled,
}: {
  label: string;
  value: string;
  set: (v: string) => void;
  children: ReactNode;
  width?: string;
  disabled?: boolean;
}) {
  return (
    <NativeSelect.Root w={width} disabled={disabled}>
      <NativeSelect.Field
        {...fieldStyle}
        h="34px"
        pe="34px"
        textOverflow="ellipsis"
        aria-label={label}
        value={value}
        onChange={(e) => set(e.target.value)}
      >
        {children}
      </NativeSelect.Field>
      <NativeSelect.Indicator />
    </NativeSelect.Root>
  );
}

/** A few words in a row of other things, without a label of its own to see. */
export function FewWords({
  label,
  value,
  set,
  placeholder,
  max = 200,
  grow = "1 1 160px",
}: {
  label: string;
  value: string;
  set: (v: string) => void;
  placeholder?: string;
  max?: number;
  grow?: string;
}) {
  return (
    <input
      aria-label={label}
      placeholder={placeholder}
      value={value}
      maxLength={max}
      onChange={(e) => set(e.target.value)}
      style={{
        flex: grow,
        minWidth: 0,
        height: 34,
        padding: "0 10px",
        borderRadius: 8,
        border: "1.5px solid var(--chakra-colors-line)",
        background: "var(--chakra-colors-sheet)",
      }}
    />
  );
}

/** The server's no under something that is not typed: a row of tags, a drawing. */
export function WrongAt({ problem, name }: { problem?: Problem; name: string }) {
  const wrong = useProblemAt(problem, name);
  return wrong ? (
    <Box color="rust" fontSize="13.5px" role="alert">
      {wrong}
    </Box>
  ) : null;
}

/** What the server said no to, when no field on the screen shows it. */
export function Refusal({ problem, children }: { problem?: Problem; children?: ReactNode }) {
  const elsewhere = useIsAtAField(problem);
  if (!problem || elsewhere) return null;
  const soft = problem.status === 409 || problem.status === 0;
  return (
    <Notice tone={soft ? "look" : "stop"} role="alert" display="flex" flexDirection="column" gap="8px">
      <Text>{problem.message}</Text>
      {children}
    </Notice>
  );
}

/** A heading with the rule under it that every list on a sheet has. */
export function Heading({ children, aside }: { children: ReactNode; aside?: ReactNode }) {
  return (
    <Flex
      as="h2"
      justify="space-between"
      align="baseline"
      fontSize="14.5px"
      fontWeight="600"
      color="muted"
      borderBottomWidth="1.5px"
      borderColor="ink"
      pb="5px"
      mb="6px"
    >
      {children}
      {aside && (
        <Box as="span" fontWeight="400">
          {aside}
        </Box>
      )}
    </Flex>
  );
}

/** A label and its figure. */
export function Figure({ label, children, why }: { label: string; children: ReactNode; why?: string }) {
  return (
    <Flex gap="12px" py="1px" title={why}>
      <Box flex="1" color="ink">
        {label}
      </Box>
      <Box flex="1" fontWeight="600">
        {children}
      </Box>
    </Flex>
  );
}

/** An empty room teaches: one sentence and the first action. */
export function Teach({ children, act }: { children: ReactNode; act?: ReactNode }) {
  return (
    <Flex direction="column" align="start" gap="14px" py="20px" maxW="52ch">
      <Text fontSize="17px">{children}</Text>
      {act}
    </Flex>
  );
}
