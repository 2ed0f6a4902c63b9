import { NavLink } from 'react-router';

/** The boards of the shelf. */
export function ShelfNav() {
  return (
    <nav aria-label="Shelf" className="flex gap-6 border-b-[1.5px] border-ink">
      {(
        [
          ['/shelf/images', 'Images'],
          ['/shelf/media', 'Sticks and discs'],
          ['/shelf/recipes', 'Recipes'],
          ['/shelf/firmware', 'Firmware'],
          ['/shelf/chips', 'Chips'],
          ['/shelf/kits', 'Kits'],
          ['/shelf', 'Parts'],
        ] as const
      ).map(([to, name]) => (
        <NavLink
          key={to}
          to={to}
          end
          className={({ isActive }) =>
            `flex min-h-10 items-center border-b-4 pt-1 text-[17px] ${isActive ? 'border-ink font-bold' : 'border-transparent text-quiet hover:text-ink'}`
          }
        >
          {name}
        </NavLink>
      ))}
    </nav>
  );
}
