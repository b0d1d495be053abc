import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { api, ask, type Schemas } from "../api/client";
import { Button } from "../design/Button";
import { Input, Labelled, Segments, Select } from "../design/Field";
import { Heading } from "../design/Spread";
import { useBook } from "../shell/useBook";
import { useShaping, type FormProps } from "./ShapeForms";

/** Works a column out from others: names are completed as they are typed, functions shown with an example. */
export function FormulaForm({
  names,
  column,
  params: p,
  onShape,
  revision,
}: FormProps<Schemas["Formula"]> & { revision?: number }) {
  const { table } = useBook();
  const [formula, setFormula] = useState(p?.formula ?? "");
  const [replace, setReplace] = useState(p?.replace ?? false);
  const [name, setName] = useState(p && !p.replace ? p.name : "");
  const [of, setOf] = useState(p?.replace ? p.name : column);
  const editor = useRef<HTMLTextAreaElement>(null);
  const help = useQuery({
    queryKey: ["formula", table, revision],
    enabled: revision !== undefined,
    staleTime: Infinity,
    queryFn: () => ask(api.GET("/tables/{table}/formula", { params: { path: { table }, query: { revision } } })),
  });
  const title = name.trim() || "result";
  useShaping(formula.trim() === "" ? null : { formula, name: replace ? of : title, replace }, onShape);
  const [at, setAt] = useState(0);
  // The word before the cursor, and the names that begin like it.
  const word = /[\p{L}_][\p{L}\p{N}_]*$/u.exec(formula.slice(0, at))?.[0] ?? "";
  const fits = (help.data?.names ?? []).filter(
    (n) => word !== "" && n.name !== word && n.name.toLowerCase().startsWith(word.toLowerCase()),
  );
  const insert = (text: string, over = "") => {
    const from = at - over.length;
    const next = formula.slice(0, from) + text + formula.slice(at);
    setFormula(next);
    setAt(from + text.length);
    requestAnimationFrame(() => {
      editor.current?.focus();
      editor.current?.setSelectionRange(from + text.length, from + text.length);
    });
  };
  return (
    <>
      <div className="mb-2 flex flex-wrap items-end gap-3">
        <Segments
          label="What the formula makes"
          value={replace ? "replace" : "new"}
          options={[
            { value: "new", name: "a new column" },
            { value: "replace", name: "in the place of one" },
          ]}
          onChange={(v) => setReplace(v === "replace")}
        />
        {replace ? (
          <Select
            label="Column to replace"
            value={of}
            options={names.map((value) => ({ value, name: value }))}
            onChange={setOf}
            className="w-48"
          />
        ) : (
          <Input
            aria-label="Name of the new column"
            placeholder="result"
            className="w-48"
            value={name}
            onChange={(e) => setName(e.target.value)}
          />
        )}
      </div>
      <Labelled label="Formula">
        <textarea
          ref={editor}
          aria-label="Formula"
          placeholder="weight_kg * price"
          rows={3}
          spellCheck={false}
          value={formula}
          onChange={(e) => {
            setFormula(e.target.value);
            setAt(e.target.selectionStart);
          }}
          onSelect={(e) => setAt(e.currentTarget.selectionStart)}
          onKeyDown={(e) => {
            if (e.key === "Tab" && fits[0]) {
              e.preventDefault();
              insert(fits[0].name, word);
            }
          }}
          className="rounded-[3px] border border-rule bg-paper px-2 py-1 font-mono text-[12.5px] placeholder:text-ink-3 hover:border-ink-3"
        />
      </Labelled>
      <p className="mt-1 flex min-h-6 flex-wrap gap-1 text-[12px] text-ink-2">
        {(fits.length > 0 ? fits : word === "" ? (help.data?.names ?? []) : []).slice(0, 24).map((f) => (
          <Button
            key={f.name}
            kind="small"
            title={f.column}
            onClick={() => insert(f.name, fits.length > 0 ? word : "")}
          >
            {f.name}
          </Button>
        ))}
        {fits.length > 0 && <span className="self-center">Tab takes the first</span>}
      </p>
      <Heading>What a formula can do</Heading>
      <table className="w-full table-fixed text-[12.5px]" aria-label="Functions">
        <tbody>
          {(help.data?.functions ?? []).map((f) => (
            <tr key={f.name} className="border-b border-rule-2 align-baseline">
              <td className="w-[34%] py-0.5 pr-2" title={f.does}>
                {f.does}
              </td>
              <td className="truncate pr-2">
                <button
                  type="button"
                  className="max-w-full truncate font-mono text-[12px] text-pencil hover:underline"
                  title={`Put ${f.example} into the formula`}
                  onClick={() => insert(f.example)}
                >
                  {f.example}
                </button>
              </td>
              <td className="w-[22%] truncate text-ink-2">{f.gives}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}
