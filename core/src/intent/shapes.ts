import type { Schema } from '../schema';
import { classShapes } from './class/schema';
import { controllerShapes } from './controller/schema';
import { courseShapes } from './course/schema';
import { dutyShapes } from './duty/schema';
import { guaranteeShapes } from './guarantee/schema';
import { hoursShapes } from './hours/schema';
import { memberShapes } from './member/schema';
import { meshShapes } from './mesh/schema';
import { overlayShapes } from './overlay/schema';
import { pairShapes } from './pair/schema';
import { poolShapes } from './pool/schema';
import { portShapes } from './port/schema';
import { portalShapes } from './portal/schema';
import { publicationShapes } from './publication/schema';
import { routeShapes } from './route/schema';
import { pactShapes } from './pact/schema';
import { routerShapes } from './router/schema';
import { radioShapes } from './radio/schema';
import { radiusShapes } from './radius/schema';
import { recipeShapes } from './recipe/schema';
import { ruleShapes } from './rule/schema';
import { segmentShapes } from './segment/schema';
import { setShapes } from './set/schema';
import { sharedRouteShapes } from './shared-route/schema';
import { ssidShapes } from './ssid/schema';
import { translationShapes } from './translation/schema';
import { uplinkShapes } from './uplink/schema';
import type { NOUNS } from './registry';

/**
 * What the edits of each noun look like, one or more shapes for each type. Apart from the nouns: who applies edits needs nothing that reads them, and
 * a page loads quicker without.
 */
export const SHAPES = {
  segment: segmentShapes,
  port: portShapes,
  duty: dutyShapes,
  radio: radioShapes,
  mesh: meshShapes,
  uplink: uplinkShapes,
  course: courseShapes,
  translation: translationShapes,
  publication: publicationShapes,
  route: routeShapes,
  router: routerShapes,
  pact: pactShapes,
  sharedRoute: sharedRouteShapes,
  pair: pairShapes,
  overlay: overlayShapes,
  member: memberShapes,
  pool: poolShapes,
  set: setShapes,
  rule: ruleShapes,
  guarantee: guaranteeShapes,
  controller: controllerShapes,
  recipe: recipeShapes,
  class: classShapes,
  ssid: ssidShapes,
  hours: hoursShapes,
  radius: radiusShapes,
  portal: portalShapes,
} as const satisfies Record<keyof typeof NOUNS, readonly Schema[]>;
