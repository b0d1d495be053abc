package main

import (
	"strings"

	"github.com/spf13/cobra"

	"grandledger/formats"
	"grandledger/formats/intake"
	"grandledger/formats/json"
	"grandledger/formats/xml"
)

func convertCommand() *cobra.Command {
	var pieces, columns []string
	var records, spread string
	c := &cobra.Command{
		Use:   "convert IN... OUT",
		Short: "Write a file in another format, by the ending of its name; several files of one shape become one",
		Long: "Write a file in another format, by the ending of its name: " + strings.Join(formats.Endings, " ") + ", with .gz or .zst after it packed.\n\n" +
			"What IN is, is found out from the file itself. Lists become JSON text in CSV. CSV that is converted and converted back is the same to the byte.",
		Args: func(_ *cobra.Command, args []string) error {
			if len(args) < 2 {
				return misuse("%s is missing", []string{"IN", "OUT"}[len(args)])
			}
			return nil
		},
	}
	c.Flags().StringArrayVar(&pieces, "piece", nil, "a sheet of a workbook or a file of an archive; several are put below one another")
	c.Flags().StringArrayVar(&columns, "column", nil, "a column to keep, in the order given; FROM=AS renames it")
	c.Flags().StringVar(&records, "records", "", "the path to the records of a JSON or XML document")
	c.Flags().StringVar(&spread, "spread", "", "the list in JSON records whose items become rows")
	c.RunE = work(func(cmd *cobra.Command, args []string) error {
		in, out := args[:len(args)-1], args[len(args)-1]
		if out != "-" {
			if _, err := formats.Writer(out); err != nil {
				return misuse("%v", err)
			}
		}
		var sources []formats.Source
		for _, name := range in {
			src, done, err := source(name)
			if err != nil {
				return err
			}
			defer done.Close()
			sources = append(sources, src)
		}
		how, err := formats.Sniff(sources[0])
		if err != nil {
			return err
		}
		if err := refine(&how, pieces, columns, records, spread); err != nil {
			return err
		}
		t, report, err := formats.Read(cmd.Context(), sources, how, intake.Options{})
		if err != nil {
			return err
		}
		say(in[0], report)
		return writeTable(cmd.Context(), out, t)
	})
	return c
}

// refine changes how a file is read by what was asked for.
func refine(how *formats.How, pieces, columns []string, records, spread string) error {
	if len(pieces) > 0 {
		how.Pieces = pieces
	}
	for _, c := range columns {
		from, as, _ := strings.Cut(c, "=")
		how.Columns = append(how.Columns, formats.Choice{From: from, As: as})
	}
	switch {
	case records == "" && spread == "":
	case how.Format == formats.JSON:
		if records == "" {
			records = how.JSON.Records
		}
		how.JSON = &json.Shape{Records: records, Spread: spread}
	case how.Format == formats.XML && spread == "":
		how.XML = &xml.Shape{Records: records}
	default:
		return misuse("--records is for JSON and XML, --spread for JSON")
	}
	return nil
}
