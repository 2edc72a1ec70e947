import { testKilledPublishers } from "../support/killed-publishers.ts";
import { shelfKind } from "../support/shelves.ts";

testKilledPublishers(shelfKind("PostgreSQL"));
