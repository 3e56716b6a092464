'use client';
import { useEffect, useState } from 'react';

/** A picture from a Blob; the address is let go when it is not shown any more. */
export function BlobPicture({
  blob,
  alt,
  className,
  onLoad,
}: {
  blob: Blob | null;
  alt: string;
  className?: string;
  onLoad?: () => void;
}) {
  const [url, setUrl] = useState<string | null>(null);
  useEffect(() => {
    if (!blob) return setUrl(null);
    const made = URL.createObjectURL(blob);
    setUrl(made);
    return () => URL.revokeObjectURL(made);
  }, [blob]);
  if (!url) return <span className={`block bg-quiet ${className ?? ''}`} />;
  return <img src={url} alt={alt} className={className} draggable={false} onLoad={onLoad} />;
}
