import type { Part } from '../part';
import { gatewayServices, switchServices } from './address-services';
import { apRouting } from './ap-routing';
import { apCaps, gatewayCaps } from './caps';
import { classes } from './classes';
import { courses } from './courses';
import { identity } from './identity';
import { hanging } from './mesh';
import { management } from './management';
import { overlay } from './overlay';
import { apPolicy, gatewayPolicy, switchPolicy } from './policy';
import { pacts } from './pacts';
import { pair } from './pair';
import { ports } from './ports';
import { published } from './published';
import { radios } from './radios';
import { gatewayRadius, radius } from './radius';
import { routes } from './routes';
import { routing, switchRouting } from './routing';
import { sockets } from './sockets';
import { apLandings, apTunnel, gatewayTunnels } from './tunnels';
import { translations } from './translations';
import { uplinks } from './uplinks';
import { vlans } from './vlans';
import { wireless } from './wireless';

/** Everything that devices are told, in an order in which each finds what it reads of those before it. */
export const PARTS: readonly Part[] = [
  identity,
  management,
  ports,
  wireless,
  apCaps,
  radios,
  sockets,
  classes,
  radius,
  gatewayRadius,
  vlans,
  routing,
  switchRouting,
  gatewayServices,
  switchServices,
  apRouting,
  apTunnel,
  apLandings,
  gatewayTunnels,
  hanging,
  uplinks,
  courses,
  translations,
  published,
  routes,
  overlay,
  pacts,
  pair,
  gatewayCaps,
  gatewayPolicy,
  switchPolicy,
  apPolicy,
];
