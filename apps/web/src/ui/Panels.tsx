import type { ComponentProps } from 'react';
import { Group, useDefaultLayout } from 'react-resizable-panels';

/** Panels whose sizes, once somebody has changed them, are the same the next time. @param id of the group; its panels have ids as well */
export function Panels({ id, ...rest }: Omit<ComponentProps<typeof Group>, 'id'> & { id: string }) {
  const remembered = useDefaultLayout({
    id: `wembrel-panels-${id}`,
    storage: localStorage,
    onlySaveAfterUserInteractions: true,
  });
  return <Group id={id} {...remembered} {...rest} />;
}
