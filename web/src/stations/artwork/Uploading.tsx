import { X } from "lucide-react";
import { useRef } from "react";

import { type Upload, useUploads } from "../../job/uploads";
import { Button } from "../../ui/Button";
import { Progress } from "../../ui/Progress";

const KINDS = "image/png,image/jpeg,image/webp,image/tiff,image/svg+xml,application/pdf,.png,.jpg,.jpeg,.webp,.tif,.tiff,.svg,.pdf";

export function ChoosePictures({ kind = "plain" }: { kind?: "plain" | "act" }) {
  const { add } = useUploads();
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <input
        ref={input}
        type="file"
        multiple
        accept={KINDS}
        className="hidden"
        data-testid="files"
        onChange={(event) => {
          add(event.target.files ?? []);
          event.target.value = "";
        }}
      />
      <Button kind={kind} onClick={() => input.current?.click()}>Choose pictures</Button>
      {kind === "plain" && <span className="ml-2 text-[12.5px] text-quiet">or drop or paste them</span>}
    </>
  );
}

/** What is on its way, and what was not taken in and why. */
export function OnTheWay({ uploads }: { uploads: Upload[] }) {
  return (
    <ul aria-label="Refused or uploading" aria-live="polite" className="px-2.5 pb-1">
      {uploads.map((upload) => <One key={upload.key} upload={upload} />)}
    </ul>
  );
}

function One({ upload }: { upload: Upload }) {
  return (
    <li className={`mb-1 rounded-md border px-2.5 py-1.5 text-[13px] ${upload.problem ? "border-stop bg-paper" : "border-rule"}`}>
      <div className="flex items-start gap-2">
        <span className="min-w-0 grow">
          <b className="block truncate">{upload.name}</b>
          {upload.problem ? (
            <span><span className="text-stop">{upload.problem.title}</span> {upload.problem.detail}</span>
          ) : (
            <span className="text-quiet">{upload.doing}</span>
          )}
        </span>
        {upload.drop && (
          <button
            type="button"
            aria-label={upload.problem ? `Dismiss ${upload.name}` : `Cancel ${upload.name}`}
            className="rounded p-0.5 hover:bg-stop-pale"
            onClick={upload.drop}
          >
            <X size={15} />
          </button>
        )}
      </div>
      {!upload.problem && <Progress label={`${upload.name}: ${upload.doing}`} share={upload.share} />}
    </li>
  );
}
