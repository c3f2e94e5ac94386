import FrameworkLink from 'next/link';
import type { ComponentProps } from 'react';

/** A link to a page of ours. What stands in view is not fetched for it: that is done when somebody turns to it (data/ahead). */
export function Link(props: ComponentProps<typeof FrameworkLink>) {
  return <FrameworkLink prefetch={false} {...props} />;
}
