import type { ButtonHTMLAttributes, Ref } from "react";

const KINDS = {
  act: "bg-act text-white font-semibold hover:bg-[#0b4a46] disabled:bg-[#9db5b0]",
  plain: "bg-paper border border-rule hover:border-act text-ink disabled:text-quiet disabled:hover:border-rule",
  stop: "bg-paper border border-stop text-stop hover:bg-stop-pale",
  quiet: "text-act font-semibold underline underline-offset-2 hover:text-ink px-0! py-0!",
};

export function Button({
  kind = "plain",
  className = "",
  ...rest
}: ButtonHTMLAttributes<HTMLButtonElement> & { kind?: keyof typeof KINDS; ref?: Ref<HTMLButtonElement> }) {
  return <button type="button" className={`rounded-md px-3 py-1.5 ${KINDS[kind]} ${className}`} {...rest} />;
}
