import { Button, Input } from "antd";
import { useState } from "react";
import { Head } from "../frame/Head";
import { Trouble } from "../frame/Trouble";
import { useSignIn } from "../queries/people";
import { text } from "../text/en";
import "./people.css";

/** Who is there, before anything is shown. */
export function SignIn() {
  const signIn = useSignIn();
  const [name, setName] = useState("");
  const [passphrase, setPassphrase] = useState("");
  return (
    <>
      <Head title={text.people.signIn} />
      <main className="sheet alone">
        <form
          className="sign-in"
          onSubmit={(event) => {
            event.preventDefault();
            signIn.mutate({ name, passphrase });
          }}
        >
          <p className="lead">{text.people.signInWhy}</p>
          <label className="field">
            <span>{text.people.name}</span>
            <Input
              name="person"
              autoComplete="username"
              autoFocus
              value={name}
              onChange={(e) => setName(e.target.value)}
            />
          </label>
          <label className="field">
            <span>{text.people.passphrase}</span>
            <Input
              name="passphrase"
              type="password"
              autoComplete="current-password"
              value={passphrase}
              onChange={(e) => setPassphrase(e.target.value)}
            />
          </label>
          <Button htmlType="submit" type="primary" loading={signIn.isPending}>
            {text.people.signIn}
          </Button>
          <Trouble error={signIn.error} />
        </form>
      </main>
    </>
  );
}
