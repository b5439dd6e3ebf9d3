<script lang="ts">
  import type { Desk } from "../lib/types";

  /** Where a phone finds the program: as text, and as a code for its camera. */
  let { phone }: { phone: NonNullable<Desk["phone"]> } = $props();
  const quiet = 4; // modules of white about the code (ISO/IEC 18004)
  const size = $derived(phone.qr.length + 2 * quiet);
  const path = $derived(
    phone.qr
      .flatMap((row, y) =>
        [...row].map((c, x) =>
          c === "1" ? `M${x + quiet} ${y + quiet}h1v1h-1z` : "",
        ),
      )
      .join(""),
  );
</script>

<section class="phone" aria-label="On the phone">
  <svg
    viewBox={`0 0 ${size} ${size}`}
    role="img"
    aria-label={`QR code of ${phone.address}`}
  >
    <rect width={size} height={size} fill="#fff" />
    <path d={path} fill="#000" shape-rendering="crispEdges" />
  </svg>
  <div>
    <h2>On the phone</h2>
    <p>
      Beside the instrument, in the same network: <a href={phone.address}
        >{phone.address}</a
      >
    </p>
    <p class="soft small">
      There is no password: whoever is in the network can come in.
    </p>
  </div>
</section>

<style>
  .phone {
    display: flex;
    gap: 1.25rem;
    align-items: center;
    margin: 1rem 0 1.75rem;
  }
  svg {
    width: 8rem;
    height: 8rem;
    flex: none;
  }
  a {
    overflow-wrap: anywhere;
  }
</style>
