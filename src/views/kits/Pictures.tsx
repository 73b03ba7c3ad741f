import { CloseIcon } from '../../ui/icons.tsx';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import { useRef } from 'react';
import type { DeskAnswer } from '../../answers/kits.ts';
import { pairOf } from '../../core/kits/creatives.ts';
import type { KitPicture } from '../../core/kits/types.ts';
import { upload } from '../../ui/api.ts';
import { at } from '../../ui/address.ts';
import { useAct } from '../../ui/hooks/useAct.ts';
import { Area } from '../../ui/parts/fields.tsx';
import { sizes } from '../../ui/theme.ts';
import { Part, Row, type SectionProps } from './parts.tsx';

type PicturesProps = Pick<SectionProps, 'body' | 'change'> & { desk: DeskAnswer };

/** Pictures and titles of the kit's ad groups: each picture with each title, as shoppers would see it. */
export function Pictures({ body, desk, change }: PicturesProps) {
  const { failed } = useAct();
  const file = useRef<HTMLInputElement>(null);
  const { pictures: most, titles: mostTitles, pixels } = desk.limits.creatives;
  const titles = [...new Set(body.titles.map((title) => title.trim()).filter((title) => title !== ''))];
  const take = async (files: readonly File[]) => {
    for (const one of files) {
      try {
        const kept = await upload<KitPicture>(`/api/kits/pictures?name=${encodeURIComponent(one.name)}`, one);
        change((old) =>
          old.pictures.some(({ id }) => id === kept.id) ? old : { ...old, pictures: [...old.pictures, kept] },
        );
      } catch (error) {
        failed(error as Error);
      }
    }
  };
  const leave = (pair: string, isLeft: boolean) =>
    change((old) => ({
      ...old,
      leftOut: isLeft ? [...old.leftOut, pair] : old.leftOut.filter((one) => one !== pair),
    }));
  return (
    <Part
      title="Pictures and titles"
      hint={`Up to ${most} pictures of ${pixels} x ${pixels}, ${mostTitles} titles.`}
    >
      <Row>
        <Button size="small" onClick={() => file.current?.click()}>
          Add pictures
        </Button>
        <input
          ref={file}
          type="file"
          accept="image/png,image/jpeg"
          multiple
          hidden
          aria-label="Files of pictures"
          onChange={(event) => {
            void take([...(event.target.files ?? [])]);
            event.target.value = '';
          }}
        />
        {body.pictures.map(({ id, name }) => (
          <span key={id}>
            {name}
            <IconButton
              size="small"
              aria-label={`Remove picture ${name}`}
              onClick={() =>
                change((old) => ({ ...old, pictures: old.pictures.filter((one) => one.id !== id) }))
              }
            >
              <CloseIcon sx={{ fontSize: sizes.text }} />
            </IconButton>
          </span>
        ))}
      </Row>
      <Area
        aria-label="Titles"
        rows={2}
        placeholder="A title a line"
        value={body.titles.join('\n')}
        onChange={({ target }) =>
          change((old) => ({ ...old, titles: target.value.split('\n').slice(0, 20) }))
        }
      />
      {body.pictures.length > 0 && titles.length > 0 && (
        <Box role="list" aria-label="Pictures with titles" sx={{ display: 'flex', flexWrap: 'wrap', gap: 1 }}>
          {body.pictures.flatMap(({ id, name }) =>
            titles.map((title) => {
              const pair = pairOf(id, title);
              const isOut = body.leftOut.includes(pair);
              return (
                <Box key={pair} role="listitem" sx={{ width: 112, opacity: isOut ? 0.45 : 1 }}>
                  <img
                    src={at(`/api/kits/pictures/${id}`)}
                    alt={name}
                    width={112}
                    height={112}
                    style={{ display: 'block', objectFit: 'contain' }}
                  />
                  <Box sx={{ fontSize: sizes.small, overflowWrap: 'anywhere' }}>{title}</Box>
                  <label style={{ fontSize: sizes.small }}>
                    <input
                      type="checkbox"
                      aria-label={`Show ${name} with ${title}`}
                      checked={!isOut}
                      onChange={({ target }) => leave(pair, !target.checked)}
                    />{' '}
                    shown
                  </label>
                </Box>
              );
            }),
          )}
        </Box>
      )}
    </Part>
  );
}
