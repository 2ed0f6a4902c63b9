import { useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { health } from '../api/queries';

/** The workshop's clock in milliseconds, ticking: this browser's own may be wrong, so only its pace is used. */
export function useNow(): number {
  const { data, dataUpdatedAt } = useQuery(health);
  const [here, setHere] = useState(() => Date.now());
  useEffect(() => {
    const timer = setInterval(() => {
      setHere(Date.now());
    }, 500);
    return () => {
      clearInterval(timer);
    };
  }, []);
  return data ? Date.parse(data.now) + Math.max(0, here - dataUpdatedAt) : here;
}

/** "18:40", "1:12:05"; what is over has a plus in front. */
export function countdown(until: string, now: number): string {
  const left = Math.round((Date.parse(until) - now) / 1000);
  const s = Math.abs(left);
  const two = (n: number) => String(n).padStart(2, '0');
  const hours = Math.floor(s / 3600);
  const text =
    hours > 0
      ? `${hours}:${two(Math.floor(s / 60) % 60)}:${two(s % 60)}`
      : `${Math.floor(s / 60)}:${two(s % 60)}`;
  return left < 0 ? `+${text}` : text;
}
