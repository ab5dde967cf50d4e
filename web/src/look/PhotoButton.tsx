import { Camera } from "lucide-react";
import { FileTrigger } from "react-aria-components";
import { sendPhoto, useWrite } from "../api/queries";
import { Button, Trouble } from "./parts";

/** Takes a photo with the camera that looks away from the person, made smaller; what it shows is said by the text. */
export function PhotoButton({
  circuit,
  text,
  onMade,
}: {
  /** Null: it is of the kit. */
  circuit: string | null;
  text: string;
  onMade: (id: string) => void;
}) {
  const send = useWrite((f: File) => sendPhoto(circuit, f));
  return (
    <>
      <FileTrigger
        acceptedFileTypes={["image/jpeg", "image/png", "image/webp"]}
        defaultCamera="environment"
        onSelect={(files) => {
          const f = files?.[0];
          if (f) send.mutate(f, { onSuccess: onMade });
        }}
      >
        <Button isDisabled={send.isPending}>
          <Camera size={19} aria-hidden />
          {text}
        </Button>
      </FileTrigger>
      <Trouble of={send.error} />
    </>
  );
}
