import type { ReactNode } from "react";
import { Form } from "react-bootstrap";

/** A field of a form below its label; the label belongs to it by its id. */
export function Labelled(props: { id: string; label: ReactNode; className?: string; children: ReactNode }) {
  return (
    <Form.Group controlId={props.id} className={props.className}>
      <Form.Label>{props.label}</Form.Label>
      {props.children}
    </Form.Group>
  );
}
