import {
  mdiBookOpenVariantOutline,
  mdiCallSplit,
  mdiCashMultiple,
  mdiClose,
  mdiDatabaseOutline,
  mdiDragVertical,
  mdiFlagOutline,
  mdiMoonWaxingCrescent,
  mdiSync,
  mdiTrashCanOutline,
  mdiViewSequentialOutline,
  mdiWeatherSunset,
  mdiWrenchOutline,
} from '@mdi/js';
import { createSvgIcon } from '@mui/material/utils';

/** The icons of the interface, as MUI draws its own. Their shapes come from one small package: a page loads what it names. */

const icon = (path: string, name: string) => createSvgIcon(<path d={path} />, name);

export const TodayIcon = icon(mdiWeatherSunset, 'Today');
export const RoundIcon = icon(mdiSync, 'Round');
export const ExploreIcon = icon(mdiViewSequentialOutline, 'Explore');
export const LanesIcon = icon(mdiCallSplit, 'Lanes');
export const SpendIcon = icon(mdiCashMultiple, 'Spend');
export const KitsIcon = icon(mdiWrenchOutline, 'Kits');
export const RoutinesIcon = icon(mdiMoonWaxingCrescent, 'Routines');
export const LedgerIcon = icon(mdiBookOpenVariantOutline, 'Ledger');
export const GoalsIcon = icon(mdiFlagOutline, 'Goals');
export const DataIcon = icon(mdiDatabaseOutline, 'Data');
export const CloseIcon = icon(mdiClose, 'Close');
export const DeleteIcon = icon(mdiTrashCanOutline, 'Delete');
export const DragIcon = icon(mdiDragVertical, 'Drag');
