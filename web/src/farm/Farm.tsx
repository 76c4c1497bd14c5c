import { useQuery } from "@tanstack/react-query";
import { Button, Input, Select } from "antd";
import { useEffect, useState } from "react";
import type { Schemas } from "../api/client";
import { Head } from "../frame/Head";
import { Trouble } from "../frame/Trouble";
import { shown, typed } from "../marks/number";
import { deviceZone, sameClock } from "../marks/zone";
import { backupsQuery, useBackUp, useFarm, useNightly } from "../queries/farm";
import { useIsOwner } from "../queries/people";
import { farmQuery } from "../queries/trial";
import { text } from "../text/en";
import { Instruments } from "./Instruments";
import { PricesOfFarm } from "./Prices";
import "./farm.css";

/** The farm: its name, its time zone, its backups. */
export default function Farm() {
  const farm = useQuery(farmQuery);
  const owner = useIsOwner();
  return (
    <>
      <Head title={text.farm.title} />
      <main className="sheet alone farm-page">
        <Trouble error={farm.error} />
        {farm.data && <Name farm={farm.data} owner={owner} />}
        <PricesOfFarm owner={owner} />
        <Instruments owner={owner} />
        {owner && <Backups />}
      </main>
    </>
  );
}

function Name({ farm, owner }: { farm: Schemas["FarmView"]; owner: boolean }) {
  const put = useFarm();
  const [name, setName] = useState(farm.name);
  useEffect(() => setName(farm.name), [farm.name]);
  const counts = farm.zone || farm.machine_zone;
  const device = deviceZone();
  const zones = [
    ...new Set([
      ...(farm.zone ? [farm.zone] : []),
      device,
      ...Intl.supportedValuesOf("timeZone"),
    ]),
  ];
  const keep = () =>
    name.trim() !== farm.name && put.mutate({ name, zone: farm.zone });
  return (
    <section>
      <div className="farm-fields">
        <label className="field">
          <span>{text.farm.name}</span>
          <Input
            name="farm-name"
            value={name}
            disabled={!owner}
            onChange={(e) => setName(e.target.value)}
            onBlur={keep}
            onPressEnter={keep}
          />
        </label>
        <label className="field">
          <span>{text.farm.zone}</span>
          <Select
            id="zone"
            showSearch
            value={farm.zone || undefined}
            placeholder={text.farm.machine(farm.machine_zone)}
            disabled={!owner}
            onChange={(zone: string) => put.mutate({ name: farm.name, zone })}
            options={zones.map((value) => ({ value, label: value }))}
          />
        </label>
      </div>
      <p className="soft">{text.farm.zoneWhy}</p>
      {farm.zone &&
        farm.machine_zone &&
        !sameClock(farm.machine_zone, farm.zone) && (
          <p className="differs">
            {text.farm.machineDiffers(farm.machine_zone, farm.zone)}
          </p>
        )}
      {counts && !sameClock(device, counts) && (
        <p className="differs">{text.farm.deviceDiffers(device, counts)}</p>
      )}
      <Trouble error={put.error} />
    </section>
  );
}

/** When a backup was made, and how, from its name. */
function said(name: string): string {
  const parts = /^(nightly|by-hand)-(\d{4}-\d{2}-\d{2})-(\d{2})(\d{2})/.exec(
    name,
  );
  return parts
    ? text.farm.made(
        parts[1] === "nightly",
        parts[2] ?? "",
        `${parts[3]}:${parts[4]}`,
      )
    : name;
}

function Backups() {
  const view = useQuery(backupsQuery);
  const make = useBackUp();
  const nightly = useNightly();
  const [draft, setDraft] = useState("");
  const kept = view.data?.nightly;
  useEffect(() => setDraft(kept === undefined ? "" : String(kept)), [kept]);
  const value = typed(draft);
  const keep = () =>
    value !== null &&
    !Number.isNaN(value) &&
    value !== kept &&
    nightly.mutate(value);
  return (
    <section>
      <h2>{text.farm.backups}</h2>
      <p className="soft">{text.farm.backupsWhy}</p>
      <div className="farm-fields">
        <Button
          type="primary"
          loading={make.isPending}
          onClick={() => make.mutate(undefined)}
        >
          {text.farm.backUp}
        </Button>
        <label className="field">
          <span>{text.farm.nightly}</span>
          <Input
            name="nightly"
            inputMode="numeric"
            value={draft}
            aria-invalid={Number.isNaN(value) || undefined}
            onChange={(e) => setDraft(e.target.value)}
            onBlur={keep}
            onPressEnter={keep}
          />
        </label>
      </div>
      <Trouble error={view.error ?? make.error ?? nightly.error} />
      {view.data && view.data.backups.length === 0 && <p>{text.farm.none}</p>}
      <ul className="backups">
        {view.data?.backups.map((backup) => (
          <li key={backup.name}>
            <span>{said(backup.name)}</span>
            <span>{shown(backup.bytes / 1e6, 1)} MB</span>
            <a
              href={`/api/v1/backups/${backup.name}`}
              download
              aria-label={`${text.farm.download}: ${said(backup.name)}`}
            >
              {text.farm.download}
            </a>
          </li>
        ))}
      </ul>
      {view.data && (
        <p className="soft">
          {text.farm.where(view.data.folder, view.data.data)}
        </p>
      )}
    </section>
  );
}
