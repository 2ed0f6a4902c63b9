import { queryOptions } from '@tanstack/react-query';
import { api, type Schema, take } from './client';
import { useWrite } from './queries';

/** How far a machine got, in words of what one sees. */
export const howFar = queryOptions({
  queryKey: ['how-far'],
  queryFn: () => take(api.GET('/api/diagnoses/how-far')),
  staleTime: Infinity,
});

/** The open search of a machine, if there is one. */
export const openDiagnosis = (tag: string) =>
  queryOptions({
    queryKey: ['machine', tag, 'diagnoses'],
    queryFn: () => take(api.GET('/api/machines/{tag}/diagnoses', { params: { path: { tag } } })),
  });

export const useBeginDiagnosis = () =>
  useWrite((body: Schema['DiagnosisIn']) => take(api.POST('/api/diagnoses', { body })));

export const useAnswer = (id: number) =>
  useWrite((body: Schema['AnswerIn']) =>
    take(api.POST('/api/diagnoses/{id}/answers', { params: { path: { id } }, body })),
  );

export const useMend = (id: number) =>
  useWrite((body: Schema['MendIn']) =>
    take(api.POST('/api/diagnoses/{id}/mend', { params: { path: { id } }, body })),
  );
