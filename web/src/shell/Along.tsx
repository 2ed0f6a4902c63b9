import { useEffect } from 'react';
import { Link, useLocation } from 'react-router';

const place = 'along';
const route = 'along-from';

/**
 * The machine that things are made for comes along from its Prepare to image, recipe and medium, and leads back there. It stays
 * until a page of a machine is opened.
 */
export function Along() {
  const { pathname, search } = useLocation();
  const asked = new URLSearchParams(search).get('for');
  useEffect(() => {
    // The way back is the Prepare that one came from, with its route.
    if (/^\/machines\/[^/]+\/prepare$/.test(pathname)) sessionStorage.setItem(route, pathname + search);
    if (asked) sessionStorage.setItem(place, asked);
    else if (pathname.startsWith('/machines/')) sessionStorage.removeItem(place);
  }, [asked, pathname, search]);
  const tag = asked ?? sessionStorage.getItem(place);
  if (!tag || !/^\/(shelf|images)/.test(pathname)) return null;
  const back = `/machines/${tag}/prepare`;
  const from = sessionStorage.getItem(route);
  return (
    <p className="flex items-center gap-4 border-b border-rule py-1" aria-label="For a machine">
      <span>
        This is for <b className="font-value">{tag}</b>.
      </span>
      <Link
        to={from && from.split('?')[0] === back ? from : back}
        className="min-h-9 content-center font-semibold underline underline-offset-4"
      >
        Back to its Prepare
      </Link>
    </p>
  );
}
