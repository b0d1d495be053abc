package api_test

import (
	"os"
	"reflect"
	"slices"
	"strings"
	"testing"

	"gopkg.in/yaml.v3"

	"grandledger/core/authority"
	"grandledger/core/compare"
	"grandledger/core/condition"
	"grandledger/core/crosswalk"
	"grandledger/core/duplicate"
	"grandledger/core/entry"
	"grandledger/core/join"
	"grandledger/core/linkage"
	"grandledger/core/reading"
	"grandledger/core/reconcile"
	"grandledger/core/spelling"
	"grandledger/core/tally"
	"grandledger/core/tidy"
	"grandledger/core/watch"
	"grandledger/formats"
	"grandledger/formats/csv"
	"grandledger/formats/fixed"
	"grandledger/formats/grid"
	"grandledger/formats/intake"
	"grandledger/formats/json"
	"grandledger/formats/xml"
	"grandledger/jobs"
)

// The schemas that stand for types of the core must name exactly their fields.
func TestSchemasAreTheCoresTypes(t *testing.T) {
	types := map[string]any{
		"How": formats.How{}, "Choices": formats.Choices{}, "Preview": formats.Preview{}, "ColumnToBring": formats.Choice{}, "Dialect": csv.Dialect{},
		"FixedLayout": fixed.Layout{}, "GridRange": grid.Range{}, "JsonShape": json.Shape{}, "XmlShape": xml.Shape{}, "FoundPath": json.Found{},
		"Note": intake.Note{}, "BringIn": jobs.BringInArgs{}, "Profile": tally.Profile{}, "Count": tally.Count{}, "ColumnDetail": tally.Detail{}, "Timeline": tally.Timeline{}, "Period": tally.Period{}, "Gap": tally.Gap{}, "Cross": tally.Cross{},
		"ShapeLine": tally.ShapeLine{}, "Quantile": tally.Quantile{}, "FarOut": tally.FarOut{}, "Lump": tally.Lump{},
		"Line": tally.Line{}, "Histogram": tally.Histogram{}, "RepeatSummary": duplicate.Summary{}, "Tidy": entry.Tidy{}, "TidyStep": tidy.Step{}, "TidySuggestion": tidy.Suggestion{},
		"Values": entry.Values{}, "RowsEntry": entry.Rows{}, "Condition": condition.Condition{}, "ConditionCount": condition.Count{}, "Change": entry.Change{}, "Duplicates": entry.Duplicates{}, "Return": entry.Return{},
		"Comparison": compare.Comparison{}, "Difference": compare.Difference{}, "ColumnDifference": compare.ColumnDifference{}, "ColumnChange": compare.ColumnChange{}, "Together": tally.Together{}, "CandidateKey": tally.Key{}, "Dependency": tally.Dependency{}, "SameContent": tally.Same{}, "PartCount": tally.PartCount{}, "SideCount": tally.SideCount{}, "BesideLine": tally.BesideLine{}, "Measured": tally.Measured{}, "MeasuredLine": tally.MeasuredLine{}, "Effect": entry.Effect{}, "ReadingEffect": entry.ReadingEffect{}, "AsRead": entry.AsRead{}, "ReadingEntry": entry.Reading{}, "ColumnsEntry": entry.Columns{}, "ColumnAs": entry.ColumnAs{}, "Split": entry.Split{}, "Combine": entry.Combine{}, "Fill": entry.Fill{}, "Cell": entry.Cell{}, "Gather": entry.Gather{}, "AddRows": entry.Add{}, "Review": entry.Review{}, "Check": entry.Check{}, "MarkEntry": entry.Mark{}, "Renumber": entry.Renumber{}, "Formula": entry.Formula{}, "Evaluation": entry.Evaluation{}, "Worked": entry.Worked{}, "Number": entry.Number{}, "Shape": entry.Shape{},
		"Merge": entry.Merge{}, "MergeColumn": entry.MergeColumn{}, "PutBack": entry.PutBack{}, "Identify": entry.Identify{}, "IdentifyLine": entry.IdentifyLine{}, "KeepChoice": entry.Choice{}, "GroupSize": duplicate.Size{}, "HeldValue": spelling.Held{}, "Inside": duplicate.Inside{},
		"WatchRule": watch.Rule{}, "WatchFinding": watch.Finding{}, "ComparePair": compare.Pair{}, "ComparedTables": compare.Tables{}, "ComparedColumn": compare.PairColumn{}, "ComparedCounts": compare.Counts{}, "ComparedCount": compare.CountLine{},
		"Beside": entry.Beside{}, "BesideColumn": entry.BesideColumn{}, "Reading": reading.Reading{}, "ReadingChoice": reading.Choice{},
		"ReadingAsk": reading.Ask{}, "ReadingProposal": reading.Proposal{}, "Balance": entry.Balance{}, "ColumnEffect": entry.ColumnEffect{}, "Pair": entry.Pair{},
		"On": join.On{}, "Bring": join.Bring{}, "Coverage": join.Coverage{}, "Unmatched": join.Unmatched{},
		"UnknownValue": crosswalk.Unknown{}, "Known": crosswalk.Coverage{}, "CrosswalkConflict": crosswalk.Conflict{}, "StandardValue": crosswalk.Standard{}, "CrosswalkPair": crosswalk.Line{},
		"Testimony": authority.Testimony{}, "LedgerColumns": reconcile.Columns{}, "SettleSpec": reconcile.Spec{}, "StatementClass": reconcile.Class{}, "Statement": reconcile.Statement{}, "LinkageSpec": linkage.Spec{}, "LinkageAttribute": linkage.Attribute{}, "LinkageWeights": linkage.Weights{},
	}
	raw, err := os.ReadFile("openapi.yaml")
	if err != nil {
		t.Fatal(err)
	}
	var doc struct {
		Components struct {
			Schemas map[string]struct {
				GoType     string `yaml:"x-go-type"`
				Properties map[string]yaml.Node
			}
		}
	}
	if err := yaml.Unmarshal(raw, &doc); err != nil {
		t.Fatal(err)
	}
	for name, schema := range doc.Components.Schemas {
		if schema.Properties == nil || schema.GoType == "" {
			continue
		}
		v, ok := types[name]
		if !ok {
			t.Errorf("the schema %s stands for %s and is not checked here", name, schema.GoType)
			continue
		}
		var fields, properties []string
		for _, field := range reflect.VisibleFields(reflect.TypeOf(v)) {
			if tag, _, _ := strings.Cut(field.Tag.Get("json"), ","); !field.Anonymous && field.IsExported() && tag != "-" {
				fields = append(fields, tag)
			}
		}
		for p := range schema.Properties {
			properties = append(properties, p)
		}
		slices.Sort(fields)
		slices.Sort(properties)
		if !slices.Equal(fields, properties) {
			t.Errorf("%s has the fields %v in Go and the properties %v in openapi.yaml", name, fields, properties)
		}
	}
	if kinds := entry.Kinds(); !slices.Equal(kinds, []string{"add", "beside", "cell", "check", "columns", "combine", "duplicates", "fill", "formula", "gather", "identify", "mark", "merge", "number", "putback", "reading", "renumber", "return", "review", "rows", "split", "tidy", "values"}) {
		t.Errorf("kinds of entry %v: give the new one its schema in openapi.yaml and name it here", kinds)
	}
}

// Dependencies point one way: the core reaches nothing of the outer rooms, and nothing
// that speaks HTTP or SQL, reads the clock or draws unseeded numbers.
func TestCoreStandsAlone(t *testing.T) {
	forbidden := []string{"net/http", "database/sql", "github.com/", "math/rand", "crypto/rand", "os", "os/exec"}
	inner := []string{"grandledger/core/", "golang.org/x/"}
	walk(t, "../core", func(file string, imports []string, text string) {
		for _, imp := range imports {
			if strings.Contains(file, "/formula/") && (strings.HasPrefix(imp, "github.com/expr-lang/expr") || imp == "github.com/nyaruka/phonenumbers") {
				continue // the language of formulas, and the numbering plans of the world
			}
			if imp == "github.com/shopspring/decimal" {
				continue // exact numbers
			}
			ours := strings.HasPrefix(imp, "grandledger/")
			if ours && !strings.HasPrefix(imp, inner[0]) || slices.ContainsFunc(forbidden, func(f string) bool {
				return imp == f || strings.HasSuffix(f, "/") && strings.HasPrefix(imp, f)
			}) {
				t.Errorf("%s imports %s", file, imp)
			}
		}
		if strings.Contains(text, "time.Now(") {
			t.Errorf("%s reads the clock", file)
		}
	})
	for room, may := range map[string][]string{
		"../formats": {"grandledger/core/", "grandledger/formats/"}, "../store": {"grandledger/core/", "grandledger/store"},
		"../jobs": {"grandledger/core/", "grandledger/store", "grandledger/formats", "grandledger/asking"}, "../asking": {"grandledger/core/", "grandledger/asking"}, "../standin": {"grandledger/core/"}, "../procedure": {"grandledger/core/", "grandledger/formats"}, "../vocabulary": {"grandledger/core/", "grandledger/formats"},
	} {
		walk(t, room, func(file string, imports []string, _ string) {
			for _, imp := range imports {
				if strings.HasPrefix(imp, "grandledger/") && !slices.ContainsFunc(may, func(m string) bool { return strings.HasPrefix(imp, m) }) {
					t.Errorf("%s imports %s", file, imp)
				}
			}
		})
	}
}
