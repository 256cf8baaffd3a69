import { type FormEvent, type ReactNode, useEffect, useState } from "react";
import { useQuery, useQueryClient } from "@tanstack/react-query";

import { call, Problem } from "../api/client";
import { Button } from "../ui/Button";

const KEY = ["sign-in"];

/** Lets nobody in who has not given the shop's passphrase, where it has one. */
export function Door({ children }: { children: ReactNode }) {
  const client = useQueryClient();
  const { data } = useQuery({ queryKey: KEY, queryFn: () => call("get_sign_in", {}), staleTime: Infinity, retry: true });
  useEffect(() => {
    const out = () => void client.invalidateQueries({ queryKey: KEY });
    window.addEventListener("signed-out", out);
    return () => window.removeEventListener("signed-out", out);
  }, [client]);
  if (!data) return null;
  return data.signed_in ? <>{children}</> : <SignIn onIn={() => void client.invalidateQueries()} />;
}

function SignIn({ onIn }: { onIn: () => void }) {
  const [passphrase, setPassphrase] = useState("");
  const [problem, setProblem] = useState<Problem | null>(null);
  const send = async (event: FormEvent) => {
    event.preventDefault();
    try {
      await call("post_sign_in", { body: { passphrase } });
      onIn();
    } catch (error) {
      setProblem(error instanceof Problem ? error : Problem.unreachable());
      setPassphrase("");
    }
  };
  return (
    <main className="grid h-full place-items-center p-8">
      <form onSubmit={(event) => void send(event)} className="grid w-[340px] gap-3 rounded-lg border border-rule bg-paper p-5">
        <h1 className="text-[20px]">This shop asks for its passphrase</h1>
        <label className="grid gap-1">
          <span className="text-quiet">Passphrase</span>
          <input type="password" autoFocus autoComplete="current-password" value={passphrase} onChange={(event) => setPassphrase(event.target.value)} className="rounded-md border border-rule px-3 py-2 focus:border-act" />
        </label>
        {problem && <p role="alert"><b className="text-stop">{problem.title}</b> {problem.detail}</p>}
        <Button kind="act" type="submit" disabled={!passphrase}>Sign in</Button>
      </form>
    </main>
  );
}
