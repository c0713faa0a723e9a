import { Flex } from "@chakra-ui/react";
import { NavLink } from "react-router";

const rooms = [
  ["/stores", "Lots"],
  ["/stock", "What is short"],
  ["/deliveries", "Deliveries"],
  ["/products", "Products"],
  ["/count", "Count"],
  ["/recalls", "Recalls"],
];

/** The leaves of the stores. */
export function Rooms() {
  return (
    <Flex gap="16px" wrap="wrap" align="center" as="nav" aria-label="Leaves of the stores">
      {rooms.map(([to, name]) => (
        <NavLink
          key={to}
          to={to}
          end
          style={({ isActive }) => ({ fontWeight: isActive ? 700 : 400, textDecoration: isActive ? "underline" : "none", textUnderlineOffset: 6 })}
        >
          {name}
        </NavLink>
      ))}
    </Flex>
  );
}
