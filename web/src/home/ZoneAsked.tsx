import { useQuery } from "@tanstack/react-query";
import { Button } from "antd";
import { Link } from "react-router";
import { Trouble } from "../frame/Trouble";
import { deviceZone } from "../marks/zone";
import { useFarm } from "../queries/farm";
import { useIsOwner } from "../queries/people";
import { farmQuery } from "../queries/trial";
import { text } from "../text/en";
import "../farm/farm.css";

/** Asks once in which time zone the farm stands: at its midnight a day of every trial begins. */
export function ZoneAsked() {
  const farm = useQuery(farmQuery).data;
  const owner = useIsOwner();
  const put = useFarm();
  if (!farm || farm.zone !== "" || !owner) {
    return null;
  }
  const zone = deviceZone();
  return (
    <div className="zone-asked">
      <span>{text.farm.asked(zone)}</span>
      <Button
        loading={put.isPending}
        onClick={() => put.mutate({ name: farm.name, zone })}
      >
        {text.farm.yes}
      </Button>
      <Link to="/farm">{text.farm.another}</Link>
      <Trouble error={put.error} />
    </div>
  );
}
