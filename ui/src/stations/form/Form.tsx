import { useParams } from "react-router";
import { FormPage } from "./FormPage";
import { Register } from "./Register";
import { ScanDesk } from "./ScanDesk";

/** The room of forms: life casts, cores and stands, and the scans of them and of what is sculpted on them. */
export default function Form() {
  const { code } = useParams();
  if (!code) return <Register />;
  return code.startsWith("F-") ? <FormPage key={code} code={code} /> : <ScanDesk key={code} code={code} />;
}
