import { useEffect, useRef, useState } from "react";
import { droppedFiles } from "./folders";

/** Takes files that are dropped on an element: its ref, and whether some are held over it now. */
export function useDrop(onFiles: (files: File[]) => void) {
  const ref = useRef<HTMLDivElement>(null);
  const latest = useRef(onFiles);
  const [over, setOver] = useState(false);
  useEffect(() => {
    latest.current = onFiles;
  });
  useEffect(() => {
    const element = ref.current;
    if (element === null) return;
    const hold = (event: DragEvent) => {
      event.preventDefault();
      setOver(true);
    };
    const leave = () => setOver(false);
    const drop = (event: DragEvent) => {
      event.preventDefault();
      setOver(false);
      void droppedFiles(event.dataTransfer).then((files) => latest.current(files));
    };
    element.addEventListener("dragover", hold);
    element.addEventListener("dragleave", leave);
    element.addEventListener("drop", drop);
    return () => {
      element.removeEventListener("dragover", hold);
      element.removeEventListener("dragleave", leave);
      element.removeEventListener("drop", drop);
    };
  }, []);
  return { ref, over };
}
