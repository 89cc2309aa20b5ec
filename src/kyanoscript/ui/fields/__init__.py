"""Controls for declared values, made from their declarations: for the slip, the sheet, processes and exports."""
