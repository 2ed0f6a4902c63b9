import { useQuery } from '@tanstack/react-query';
import { Navigate, useParams } from 'react-router';
import { machine } from '../api/queries';
import { Loading } from '../shell/States';

/** Where a machine is opened that somebody scans: at its step while a run is under way, else at its systems. */
export function WhereItStands() {
  const { tag } = useParams();
  const { data } = useQuery(machine(tag ?? ''));
  if (!data) return <Loading />;
  const { run } = data;
  return <Navigate to={run && run.finishedAt === null ? 'run' : 'systems'} replace />;
}
