import type { ComponentProps } from "react";

/** A form that Enter or its button sends. What is wrong in it is said beside its field, not by the browser. */
export function Form({ onSubmit, ...rest }: Omit<ComponentProps<"form">, "onSubmit" | "noValidate"> & { onSubmit: () => void }) {
  return (
    <form
      noValidate
      {...rest}
      onSubmit={(event) => {
        event.preventDefault();
        onSubmit();
      }}
    />
  );
}
