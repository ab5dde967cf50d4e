import styled from "styled-components";
import { Page } from "../look/page";
import { useTitle } from "../look/title";
import { useUnits } from "../units/units";

const Text = styled.div`
  display: grid;
  gap: 14px;
  max-width: 62ch;
  a {
    display: inline-block;
    padding: 12px 0;
  }
`;

/** Which Ruhe this is, what it promises, and whose work is in it. */
export default function About() {
  const { meta } = useUnits();
  useTitle("About Ruhe");
  return (
    <Page>
      <h1>About Ruhe</h1>
      <Text>
        <p>
          This is {meta.engine_version}. Each verdict names the version that
          gave it; what was signed stays as it was judged then.
        </p>
        <p>
          Ruhe helps to record and judge; it does not certify. The local code,
          the maker’s manual and licensed practice decide.
        </p>
        <p>
          It runs on your own machine and sends nothing anywhere. Ruhe is under
          the Apache License 2.0; inside it are the works of others.
        </p>
        <p>
          <a href="/notices.txt">Whose work is inside, and their licences</a>
        </p>
      </Text>
    </Page>
  );
}
