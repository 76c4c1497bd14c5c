import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, Input } from "antd";
import { useState } from "react";
import { useNavigate } from "react-router";
import { answered, client } from "../api/client";
import { Head } from "../frame/Head";
import { Trouble } from "../frame/Trouble";
import { todayQuery, trialQuery } from "../queries/trial";
import { text } from "../text/en";
import { Stakes } from "./Today";
import "./home.css";

export function Trials() {
  const today = useQuery(todayQuery);
  const queries = useQueryClient();
  const navigate = useNavigate();
  const [name, setName] = useState("");
  const create = useMutation({
    mutationFn: (name: string) => answered(client.POST("/api/v1/trials", { body: { name } })),
    onSuccess: (trial) => {
      queries.setQueryData(trialQuery(trial.id).queryKey, trial);
      void queries.invalidateQueries(todayQuery);
      void navigate(`/trials/${trial.id}/ask`);
    },
  });
  return (
    <>
      <Head title={text.trials.title} />
      <main className="sheet alone">
        <form
          className="newtrial"
          onSubmit={(event) => {
            event.preventDefault();
            create.mutate(name);
          }}
        >
          <label className="field">
            <span>{text.trials.name}</span>
            <Input value={name} onChange={(e) => setName(e.target.value)} placeholder={text.trials.placeholder} name="name" />
          </label>
          <Button htmlType="submit" type="primary" loading={create.isPending}>
            {text.trials.create}
          </Button>
        </form>
        <Trouble error={create.error ?? today.error} />
        {today.data && today.data.stakes.length > 0 && <Stakes stakes={today.data.stakes} />}
      </main>
    </>
  );
}
