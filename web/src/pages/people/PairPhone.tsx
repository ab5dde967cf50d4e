import { FormEnd } from "../../form/Form";
import { Smartphone } from "lucide-react";
import { useState } from "react";
import styled from "styled-components";
import { useWrite } from "../../api/queries";
import { people } from "../../api/session";
import { useNow } from "../../look/now";
import { Form } from "../../look/page";
import { Button, Field, Grid, Mono, Note, Code } from "../../look/parts";
import { Pick } from "../../look/Pick";
import { span } from "../../units/units";

const Box = styled.section`
  display: grid;
  gap: 12px;
  border-top: 2px solid var(--ink);
  padding-top: 14px;
`;
/* Black on white in both lights: cameras want it so. */
/** A code to be typed: large, its letters apart. */
const Letters = styled(Mono)`
  font-size: var(--t-head);
  letter-spacing: 0.1em;
`;
const Square = styled.svg`
  background: #ffffff;
  width: min(260px, 70vw);
  height: auto;
`;
const Steps = styled.ol`
  list-style: decimal;
  padding-left: 1.4em;
  display: grid;
  gap: 6px;
  max-width: 68ch;
`;

const Root = styled.a`
  display: inline-flex;
  align-items: center;
  min-height: 48px;
`;

const SYSTEMS = [
  {
    id: "iphone",
    text: "iPhone, iPad",
    steps: [
      "Allow the profile that Safari offers.",
      "Settings, General, VPN and device management: install it.",
      "Settings, General, About, Certificate trust settings: switch it on.",
    ],
  },
  {
    id: "android",
    text: "Android",
    steps: [
      "Settings, Security, More security settings, Encryption and credentials, Install a certificate, CA certificate: choose the file.",
    ],
  },
  {
    id: "windows",
    text: "Windows",
    steps: [
      "Open what was downloaded.",
      "Install certificate, Current user, place it in Trusted root certification authorities.",
    ],
  },
  {
    id: "mac",
    text: "Mac",
    steps: [
      "Open what was downloaded: Keychain Access takes it.",
      "Open it there, Trust, When using this certificate: Always trust.",
    ],
  },
  {
    id: "linux",
    text: "Linux (Debian) with Chromium",
    steps: [
      "Settings, Privacy and security, Security, Manage certificates, Authorities, Import; or certutil from libnss3-tools.",
    ],
  },
  {
    id: "firefox",
    text: "Firefox, anywhere",
    steps: [
      "Settings, Privacy and security, View certificates, Authorities, Import: trust it for web sites.",
    ],
  },
];

/** Lets a phone in: a code as a picture, ten minutes long, and how the phone learns to trust this machine. */
export function PairPhone() {
  const show = useWrite(people.showCode);
  const now = useNow();
  const [at, setAt] = useState(0);
  const [system, setSystem] = useState("iphone");
  const [isAsked, setAsked] = useState(false);
  const [password, setPassword] = useState("");
  const p = show.data;
  if (!p || p.ends_ms < now)
    return (
      <section>
        {!isAsked && (
          <Button onPress={() => setAsked(true)}>
            <Smartphone size={20} aria-hidden /> Pair a phone
          </Button>
        )}
        {isAsked && <h2>Pair a phone</h2>}
        {isAsked && (
          <Form
            save={show}
            onSubmit={() => {
              show.mutate(password, { onSuccess: () => setPassword("") });
            }}
          >
            <Grid>
              <Field
                label="Your own password"
                name="password"
                type="password"
                autoComplete="current-password"
                value={password}
                onChange={setPassword}
                hint="The phone then comes in as you."
              />
            </Grid>
            <FormEnd>Show the code</FormEnd>
          </Form>
        )}
      </section>
    );
  const url = p.urls[at] ?? p.urls[0];
  const steps = SYSTEMS.find((s) => s.id === system)?.steps ?? [];
  return (
    <Box aria-label="Pair a phone">
      <h2>Pair a phone</h2>
      {url ? (
        <>
          {p.root_fingerprint && (
            <>
              <p>
                The connection is encrypted by a certificate of Ruhe’s own,
                which each device has to be told to trust once. It vouches only
                for names and addresses within a house.
              </p>
              <Pick
                label="The other device"
                value={system}
                onChange={setSystem}
                options={SYSTEMS}
              />
              <Steps>
                <li>
                  On it open{" "}
                  <Code>{url.url.split("/pair")[0]}/ruhe-root.crt</Code>. The
                  warning there is about this very certificate; go on.
                </li>
                {steps.map((s) => (
                  <li key={s}>{s}</li>
                ))}
                <li>
                  Compare its SHA-256 fingerprint:{" "}
                  <Code>{p.root_fingerprint}</Code>
                </li>
              </Steps>
              <Root href="/ruhe-root.crt" download>
                Root certificate
              </Root>
            </>
          )}
          {p.urls.length > 1 && (
            <Pick
              label="Address"
              value={String(at)}
              onChange={(i) => setAt(Number(i))}
              options={p.urls.map((u, i) => ({
                id: String(i),
                text: u.url.split("/pair")[0] ?? u.url,
              }))}
            />
          )}
          <Square
            viewBox={`-4 -4 ${url.modules + 8} ${url.modules + 8}`}
            role="img"
            aria-label={`QR code of ${url.url}`}
          >
            <path d={url.qr} fill="#000000" />
          </Square>
          <p>
            Point its camera here, or go to <Code>{url.url.split("#")[0]}</Code>{" "}
            and type:
          </p>
        </>
      ) : (
        <Note>
          Ruhe listens on this machine alone, so no phone can reach it. Start it
          with another address too:{" "}
          <Mono>ruhe serve --bind 127.0.0.1:7420 --bind 0.0.0.0:7443</Mono>.
          Another browser on this machine can use the code.
        </Note>
      )}
      <p>
        <Letters>
          {p.code.slice(0, 5)} {p.code.slice(5)}
        </Letters>{" "}
        for another {span((p.ends_ms - now) / 1000)}, once.
      </p>
    </Box>
  );
}
