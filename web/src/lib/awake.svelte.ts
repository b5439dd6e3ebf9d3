/** Keeps the screen on while the view stands, where the browser can. Call it while a component starts. */
export function stayAwake() {
  $effect(() => {
    let held: WakeLockSentinel | undefined;
    let gone = false;
    const hold = async () => {
      if (document.visibilityState !== "visible" || !("wakeLock" in navigator))
        return;
      try {
        held = await navigator.wakeLock.request("screen");
        if (gone) await held.release();
      } catch {
        // low battery, or not allowed here: the screen goes dark as it always does
      }
    };
    void hold();
    const back = () => void hold();
    document.addEventListener("visibilitychange", back);
    return () => {
      gone = true;
      document.removeEventListener("visibilitychange", back);
      void held?.release();
    };
  });
}
