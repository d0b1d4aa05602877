'use client';

/**
 * A form over a schema: react-hook-form holds what is typed, the schema says what is wrong with it. Values live outside
 * and are told one by one, each only once the schema takes it; what it does not take stays in its field, with a sentence.
 */
import { yupResolver } from '@hookform/resolvers/yup';
import { type ReactNode, createContext, use, useEffect, useEffectEvent, useId, useMemo } from 'react';
import { FormProvider, useController, useForm, useFormContext, useFormState } from 'react-hook-form';
import type { AnyObjectSchema } from 'yup';
import type { LengthUnit } from '@/core/contracts/units';

/** What the fields of a form share. */
interface FormTools {
  /** Another for each form on the page. */
  readonly id: string;
  readonly values: object;
  /** The unit that lengths are shown in. */
  readonly unit: LengthUnit;
  readonly isLocked: boolean;
  readonly onTake: (name: string, value: unknown) => void;
}

const Tools = createContext<FormTools | null>(null);

/** Throws where it stands in no form. */
export function useFormTools(): FormTools {
  const tools = use(Tools);
  if (!tools) throw new Error('A field stands outside of a form.');
  return tools;
}

/** The value at names joined by dots; undefined where nothing stands there. */
const valueAt = (values: object, name: string): unknown =>
  name
    .split('.')
    .reduce<unknown>((at, key) => (at as Record<string, unknown> | null | undefined)?.[key], values);

interface Props extends Omit<FormTools, 'id' | 'isLocked'> {
  readonly schema: AnyObjectSchema;
  readonly isLocked?: boolean;
  /** Told whenever a field begins or ceases to hold what cannot be taken. */
  readonly onWrong?: (isWrong: boolean) => void;
  readonly children: ReactNode;
}

/** The fields stand among its children, in any layout. */
export function SchemaForm({ schema, values, unit, isLocked = false, onTake, onWrong, children }: Props) {
  const resolver = useMemo(() => yupResolver(schema), [schema]);
  const form = useForm({ defaultValues: values, resolver, mode: 'onChange' });
  const id = useId();
  const tools = useMemo(() => ({ id, values, unit, isLocked, onTake }), [id, values, unit, isLocked, onTake]);
  return (
    <FormProvider {...form}>
      <Tools value={tools}>
        {onWrong && <Watch onWrong={onWrong} />}
        {children}
      </Tools>
    </FormProvider>
  );
}

function Watch({ onWrong }: { onWrong: (isWrong: boolean) => void }) {
  const { errors } = useFormState();
  const isWrong = Object.keys(errors).length > 0;
  const tell = useEffectEvent(onWrong);
  useEffect(() => {
    tell(isWrong);
    return () => tell(false);
  }, [isWrong]);
  return null;
}

/** What a field shows and does. */
export interface Entry {
  /** What it holds: what was taken last, or what is typed and cannot be. */
  readonly value: unknown;
  readonly isWrong: boolean;
  /** Takes another value if the schema does. */
  readonly enter: (value: unknown) => void;
}

/**
 * One value of the form, by its name; names within names are joined by dots.
 * @param onTake called in place of the form's own, for values that are put together otherwise
 */
export function useEntry(name: string, onTake?: (value: unknown) => void): Entry {
  const tools = useFormTools();
  const form = useFormContext();
  const { field, fieldState } = useController({ name });
  const outside = valueAt(tools.values, name);
  const follow = useEffectEvent((value: unknown) => {
    if (!Object.is(form.getValues(name), value)) form.setValue(name, value, { shouldValidate: true });
  });
  // Another value from outside, as after taking something back, counts before what was typed.
  useEffect(() => follow(outside), [outside]);
  // A field that is not asked any more is wrong no more.
  useEffect(() => () => form.clearErrors(name), [form, name]);
  const enter = (value: unknown) => {
    field.onChange(value);
    void form.trigger(name).then((isTaken) => {
      if (!isTaken || !Object.is(form.getValues(name), value)) return;
      if (onTake) onTake(value);
      else tools.onTake(name, value);
    });
  };
  return { value: field.value, isWrong: fieldState.invalid, enter };
}
