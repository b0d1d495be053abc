import type { ButtonHTMLAttributes } from "react";
import { Link, type LinkProps } from "react-router";

type Kind = "main" | "plain" | "small" | "quiet";

const base =
  "inline-flex items-center justify-center gap-1.5 self-start whitespace-nowrap rounded-[3px] border font-medium disabled:opacity-45 disabled:cursor-not-allowed";

const kinds: Record<Kind, string> = {
  main: "h-[30px] px-3 bg-green border-green text-on-green enabled:hover:brightness-110",
  plain: "h-[30px] px-3 bg-paper border-ink text-ink enabled:hover:bg-paper-2",
  small: "h-6 px-2 text-[12px] bg-paper border-rule text-ink enabled:hover:border-ink",
  quiet: "h-6 px-1 text-[12px] border-transparent text-pencil underline underline-offset-2 enabled:hover:text-ink",
};

interface Props extends ButtonHTMLAttributes<HTMLButtonElement> {
  kind?: Kind;
}

export function Button({ kind = "plain", className = "", type = "button", ...rest }: Props) {
  return <button type={type} className={`${base} ${kinds[kind]} ${className}`} {...rest} />;
}

/** A link that looks like a button: it goes somewhere and changes nothing. */
export function ButtonLink({ kind = "small", className = "", ...rest }: LinkProps & { kind?: Kind }) {
  return <Link className={`${base} ${kinds[kind].replaceAll("enabled:", "")} ${className}`} {...rest} />;
}
