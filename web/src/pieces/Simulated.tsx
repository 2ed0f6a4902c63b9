/** What is not real about something, and what a person can really use in its place: the image, with its checksum. */
export function Simulated({
  says,
  imageId,
  sha256,
}: {
  says: string | null;
  imageId: number | null;
  sha256: string | null | undefined;
}) {
  if (says === null) return null;
  return (
    <p className="text-sm" data-simulated>
      <b className="mr-1 border border-ink px-1 text-xs">simulated</b>
      {says.replace(/^Simulated: n/, 'N')}{' '}
      {imageId !== null && (
        <a
          className="font-semibold underline underline-offset-4"
          href={`/api/images/${imageId}/content`}
          download
        >
          Download the image
        </a>
      )}
      {imageId !== null && sha256 && (
        <span className="block font-value text-xs break-all text-quiet">SHA-256 {sha256}</span>
      )}
    </p>
  );
}
