import { DragIcon } from '../../ui/icons.tsx';
import { sizes } from '../../ui/theme.ts';
import type { Level } from '../../core/account/levels.ts';
import {
  DndContext,
  PointerSensor,
  KeyboardSensor,
  closestCenter,
  useSensor,
  useSensors,
} from '@dnd-kit/core';
import {
  SortableContext,
  arrayMove,
  sortableKeyboardCoordinates,
  useSortable,
  verticalListSortingStrategy,
} from '@dnd-kit/sortable';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import Typography from '@mui/material/Typography';
import { columnLabel, columnsOf, readColumn } from '../../core/explore/columns.ts';
import type { ShownColumn } from './state.ts';

/** Windows that can stand beside the one in view. */
const frames: [string, string][] = [
  ['', 'window'],
  ['before', 'before'],
  ['diff', 'diff.'],
  ['change', 'change'],
  ['d14', '14 d'],
  ['d30', '30 d'],
  ['d60', '60 d'],
];

interface ColumnsDialogProps {
  level: Level;
  columns: ShownColumn[];
  onChange: (columns: ShownColumn[]) => void;
  onClose: () => void;
}

/** Chooses columns, over which windows, in which order, and which stay when the others scroll. */
export function ColumnsDialog({ level, columns, onChange, onClose }: ColumnsDialogProps) {
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const has = (ref: string) => columns.some((column) => column.ref === ref);
  const toggle = (ref: string) =>
    onChange(
      has(ref)
        ? columns.filter((column) => column.ref !== ref)
        : [...columns, { ref, width: null, pinned: false }],
    );
  const all = columnsOf(level).filter(({ name }) => name !== 'name');
  return (
    <Dialog
      open
      onClose={onClose}
      maxWidth={false}
      slotProps={{ paper: { sx: { width: 860, height: 600 } } }}
      onKeyDown={(event) => {
        // Keys that move a column are heard by the document; all others are meant for this dialog.
        if (!['Escape', ' ', 'ArrowUp', 'ArrowDown'].includes(event.key)) event.stopPropagation();
      }}
    >
      <DialogTitle sx={{ pb: 1 }}>Columns</DialogTitle>
      <DialogContent sx={{ display: 'grid', gridTemplateColumns: '1fr 270px', gap: 3, minHeight: 0 }}>
        <Box sx={{ overflow: 'auto' }}>
          <Box
            component="table"
            sx={{
              borderCollapse: 'collapse',
              fontSize: sizes.table,
              '& td, & th': { p: '2px 6px', fontWeight: 400 },
            }}
          >
            <thead>
              <tr>
                <th />
                {frames.map(([frame, label]) => (
                  <Box
                    component="th"
                    key={frame}
                    scope="col"
                    sx={{ color: 'text.secondary', fontSize: sizes.small }}
                  >
                    {label}
                  </Box>
                ))}
              </tr>
            </thead>
            <tbody>
              {all.map((column) => (
                <tr key={column.name}>
                  <th scope="row" style={{ textAlign: 'left' }}>
                    {column.label}
                  </th>
                  {frames.map(([frame]) => {
                    const ref = frame === '' ? column.name : `${column.name}@${frame}`;
                    const known = readColumn(ref, level);
                    return (
                      <td key={frame} style={{ textAlign: 'center' }}>
                        {known && (
                          <input
                            type="checkbox"
                            aria-label={columnLabel(known)}
                            checked={has(ref)}
                            onChange={() => toggle(ref)}
                          />
                        )}
                      </td>
                    );
                  })}
                </tr>
              ))}
            </tbody>
          </Box>
        </Box>
        <Box sx={{ overflow: 'auto' }}>
          <Typography variant="caption" color="text.secondary">
            In this order. Drag to move, pin to keep in view.
          </Typography>
          <DndContext
            sensors={sensors}
            collisionDetection={closestCenter}
            onDragEnd={({ active, over }) => {
              if (!over || active.id === over.id) return;
              const at = (id: unknown) => columns.findIndex((column) => column.ref === id);
              onChange(arrayMove(columns, at(active.id), at(over.id)));
            }}
          >
            <SortableContext items={columns.map(({ ref }) => ref)} strategy={verticalListSortingStrategy}>
              {columns.map((column) => (
                <Chosen
                  key={column.ref}
                  level={level}
                  column={column}
                  onPin={() =>
                    onChange(columns.map((one) => (one === column ? { ...one, pinned: !one.pinned } : one)))
                  }
                />
              ))}
            </SortableContext>
          </DndContext>
        </Box>
      </DialogContent>
      <DialogActions>
        <Button onClick={() => onChange([])}>As usual here</Button>
        <Button variant="contained" onClick={onClose}>
          Done
        </Button>
      </DialogActions>
    </Dialog>
  );
}

function Chosen({ level, column, onPin }: { level: Level; column: ShownColumn; onPin: () => void }) {
  const { attributes, listeners, setNodeRef, transform, transition } = useSortable({ id: column.ref });
  const known = readColumn(column.ref, level);
  if (!known) return null;
  const isName = known.column.name === 'name';
  return (
    <Box
      ref={setNodeRef}
      style={{ transform: transform ? `translateY(${transform.y}px)` : undefined, transition }}
      sx={{ display: 'flex', alignItems: 'center', gap: 0.75, fontSize: sizes.table, height: 30 }}
    >
      <Box
        component="span"
        {...attributes}
        {...listeners}
        aria-label={`Move ${columnLabel(known)}`}
        sx={{ cursor: 'grab', display: 'flex', color: 'text.secondary' }}
      >
        <DragIcon fontSize="small" />
      </Box>
      <Box component="span" sx={{ flex: 1 }}>
        {columnLabel(known)}
      </Box>
      {!isName && (
        <label>
          <input type="checkbox" checked={column.pinned} onChange={onPin} /> pin
        </label>
      )}
    </Box>
  );
}
