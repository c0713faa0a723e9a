const LONGEST = 1600;

/** A picture small enough for a weak connection; what the browser cannot open is sent as it is. */
export async function smaller(file: File): Promise<Blob> {
  if (typeof createImageBitmap !== "function") return file;
  try {
    const img = await createImageBitmap(file, { imageOrientation: "from-image" });
    const k = Math.min(1, LONGEST / Math.max(img.width, img.height));
    const canvas = document.createElement("canvas");
    canvas.width = Math.max(1, Math.round(img.width * k));
    canvas.height = Math.max(1, Math.round(img.height * k));
    canvas.getContext("2d")?.drawImage(img, 0, 0, canvas.width, canvas.height);
    img.close();
    return await new Promise((done) => canvas.toBlob((b) => done(b ?? file), "image/jpeg", 0.85));
  } catch {
    return file;
  }
}
