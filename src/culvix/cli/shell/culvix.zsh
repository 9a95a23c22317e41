#compdef culvix



_shtab_culvix_commands() {
  local _commands=(
    apply:'Read FILE the way RECIPE says, describe it, make the recipe'"'"'s decisions again, and compare it with the table that the recipe was made with. Exit status 0: done; 3: done, but a person must look, for the reasons on standard error; 2: it cannot be done.'
    clean:'Write the table of STUDY with its decisions applied: excluded rows left out, values excluded or treated as missing empty, corrected values as they are now. The first column is the row'"'"'s number in the source.'
    compare:'Compare FILE with OTHER, last year'"'"'s table or the same one a month ago: columns matched, what has changed in each, and rows by a key (.json: format culvix-comparison/1; .html: to be read).'
    demo:'Open the example study, or run it whole without a display. Its files come into culvix-demo/ here.'
    desktop:'Put an entry for Culvix among the applications of this user, with its icon, the type of study files, completions for bash, zsh and fish, and the manual page; or take all of that away again.'
    inspect:'Write what reading FILE found, before anything is settled (format culvix-intake/2).'
    profile:'Write every number of the core for FILE as a JSON document (format culvix-profile/2).'
    recipe:'Write the recipe of STUDY: how its table was read and described, its conventions, columns worked out, marks and decisions, and what each column looked like. “culvix apply” runs it on another table.'
    remembered:'List what Culvix remembers of your work on this machine, or erase it: drafts, the list of files opened lately, pasted tables, samples, tables unpacked from studies, the log. Studies that you saved and your tables are never touched.'
    report:'Write the report of FILE, a table or a study, in the format that the ending of OUT says: one self-contained file (.html), pages (.pdf), for a word processor (.docx), Markdown with a folder of pictures (.md), or all its tables and figures as a spreadsheet (.xlsx).'
    sample:'Draw rows of a table of any size, the same ones for the same seed while the table is unchanged, and write them as a table that says what it is a sample of.'
    tables:'List the tables and views of a server that may be read, with estimates of their rows and comments.'
    verify:'Compute every figure of REPORT (HTML, PDF or DOCX) anew from the table it was made from, and compare it and the text with what is written. Exit status 0: all is the same; 3: something differs, each told in a line; 2: it cannot be done.'
    whole:'Survey a table of any size where it lies, in a server or in files that no memory holds (.json: format culvix-whole/1).'
  )
  _describe 'culvix commands' _commands
}

_shtab_culvix_options=(
  "(- : *)"{-h,--help}"[show this help message and exit]"
  "--recipe[run this recipe on the table first]:RECIPE:"
  "(- : *)--version[show program\'s version number and exit]"
  ":a table or a study to open, or the address of a server or folder:"
)

_shtab_culvix_defaults_added=0

_shtab_culvix_apply_options=(
  "(- : *)"{-h,--help}"[show this help message and exit]"
  "*"{-o,--output}"[file to write\; its ending says what\: a study (.culvix), the report (.html, .pdf, .docx, .md), the profile document (.json) or the cleaned table (.csv, .parquet, .xlsx)\; repeatable]:OUT:"
  "--table[the table or view of a server]:SCHEMA.NAME:"
  "--query[a query whose rows are the table\; it can only read]:SQL:"
  "--query-file[a file with such a query]:FILE.sql:"
  "--seconds[how long one question to a server may take]:S:"
  "--sample[of a server or folder\: the sample]:ROWS.parquet:"
  "--size[rows of the sample (default 100000)]:N:"
  "--seed[which rows (default 1)]:SEED:"
  "--log[write what was done, and what to look at, as data]:LOG.json:"
  ":a recipe (of \“culvix recipe\”), or a study:"
  ":the table to run it on, a study of it, or the address of a server or folder, of which a sample is drawn (default\: the table that the recipe\'s own was a sample of):"
)

_shtab_culvix_apply_defaults_added=0

_shtab_culvix_clean_options=(
  "(- : *)"{-h,--help}"[show this help message and exit]"
  {-o,--output}"[file to write]:OUT.csv|parquet|xlsx:"
  "--alpha[level of the tests (default 0.05)]:alpha:"
  "--quantile-type[definition of quantiles (default 7, inclusive)]:1-9:"
  "*--missing[a cell text that means missing\; repeatable]:CODE:"
  "--part[the sheet of a spreadsheet, or the table of a database]:NAME:"
  "--cells[the range of a sheet to read]:B3:F200:"
  "--only[read these columns only]:A,B:"
  "--rows[read these rows only, counted from 1]:FROM-TO:"
  "--sample[read a random sample of N rows]:N:"
  "--sample-seed[seed of the sample (default 1)]:SEED:"
  "--ragged[fill lines that are too short with missing cells, or leave lines that do not fit out (default\: refuse)]:ragged:(fill leave-out)"
  "--leave-last[leave the last N rows out (a total)]:N:"
  "--header-lines[names stand in N lines (default\: judged)]:N:"
  "--decimal[the decimal mark of a text (default\: judged)]:decimal:(point comma)"
  "*--not-missing[a token such as NA that is a value here, in every column\; repeatable]:TOKEN:"
  "--encoding[the encoding of a text (default\: guessed)]:NAME:"
  "--dictionary[what is said of the columns (a Table Schema)]:datapackage.json:"
  "--whole[of a study of a sample\: write the whole table it is one of (csv, parquet), as its engine applies the decisions made by rule or on rows that a key names]"
  "--address[where the whole lies now (default\: as it was)]:ADDRESS:"
  "--seconds[how long one question to a server may take]:S:"
  ":a table (delimited text, spreadsheet, Parquet, Arrow, JSON or SQLite), or a study:"
)

_shtab_culvix_clean_defaults_added=0

_shtab_culvix_compare_options=(
  "(- : *)"{-h,--help}"[show this help message and exit]"
  {-o,--output}"[file\: .json or .html]:OUT:"
  "--part[the sheet of a spreadsheet, or the table of a database]:NAME:"
  "--cells[the range of a sheet to read]:B3:F200:"
  "--only[read these columns only]:A,B:"
  "--rows[read these rows only, counted from 1]:FROM-TO:"
  "--sample[read a random sample of N rows]:N:"
  "--sample-seed[seed of the sample (default 1)]:SEED:"
  "--ragged[fill lines that are too short with missing cells, or leave lines that do not fit out (default\: refuse)]:ragged:(fill leave-out)"
  "--leave-last[leave the last N rows out (a total)]:N:"
  "--header-lines[names stand in N lines (default\: judged)]:N:"
  "--decimal[the decimal mark of a text (default\: judged)]:decimal:(point comma)"
  "*--not-missing[a token such as NA that is a value here, in every column\; repeatable]:TOKEN:"
  "--encoding[the encoding of a text (default\: guessed)]:NAME:"
  "--dictionary[what is said of the columns (a Table Schema)]:datapackage.json:"
  "--key[match rows by these columns]:A,B:"
  "--level[what is told as more than chance (default 0.05)]:level:"
  ":a table (delimited text, spreadsheet, Parquet, Arrow, JSON or SQLite), or a study:"
  ":the table it is compared with:"
)

_shtab_culvix_compare_defaults_added=0

_shtab_culvix_demo_options=(
  "(- : *)"{-h,--help}"[show this help message and exit]"
)

_shtab_culvix_demo_defaults_added=0

_shtab_culvix_desktop_options=(
  "(- : *)"{-h,--help}"[show this help message and exit]"
  "--install[put the entry there]"
  "--remove[take it away]"
)

_shtab_culvix_desktop_defaults_added=0

_shtab_culvix_inspect_options=(
  "(- : *)"{-h,--help}"[show this help message and exit]"
  {-o,--output}"[file to write]:OUT.json:"
  "--part[the sheet of a spreadsheet, or the table of a database]:NAME:"
  "--cells[the range of a sheet to read]:B3:F200:"
  "--only[read these columns only]:A,B:"
  "--rows[read these rows only, counted from 1]:FROM-TO:"
  "--sample[read a random sample of N rows]:N:"
  "--sample-seed[seed of the sample (default 1)]:SEED:"
  "--ragged[fill lines that are too short with missing cells, or leave lines that do not fit out (default\: refuse)]:ragged:(fill leave-out)"
  "--leave-last[leave the last N rows out (a total)]:N:"
  "--header-lines[names stand in N lines (default\: judged)]:N:"
  "--decimal[the decimal mark of a text (default\: judged)]:decimal:(point comma)"
  "*--not-missing[a token such as NA that is a value here, in every column\; repeatable]:TOKEN:"
  "--encoding[the encoding of a text (default\: guessed)]:NAME:"
  "--dictionary[what is said of the columns (a Table Schema)]:datapackage.json:"
  "--key[look for rows that repeat these columns]:A,B:"
  ":a table (delimited text, spreadsheet, Parquet, Arrow, JSON or SQLite), or a study:"
)

_shtab_culvix_inspect_defaults_added=0

_shtab_culvix_profile_options=(
  "(- : *)"{-h,--help}"[show this help message and exit]"
  {-o,--output}"[file to write]:OUT.json:"
  "--alpha[level of the tests (default 0.05)]:alpha:"
  "--quantile-type[definition of quantiles (default 7, inclusive)]:1-9:"
  "*--missing[a cell text that means missing\; repeatable]:CODE:"
  "--part[the sheet of a spreadsheet, or the table of a database]:NAME:"
  "--cells[the range of a sheet to read]:B3:F200:"
  "--only[read these columns only]:A,B:"
  "--rows[read these rows only, counted from 1]:FROM-TO:"
  "--sample[read a random sample of N rows]:N:"
  "--sample-seed[seed of the sample (default 1)]:SEED:"
  "--ragged[fill lines that are too short with missing cells, or leave lines that do not fit out (default\: refuse)]:ragged:(fill leave-out)"
  "--leave-last[leave the last N rows out (a total)]:N:"
  "--header-lines[names stand in N lines (default\: judged)]:N:"
  "--decimal[the decimal mark of a text (default\: judged)]:decimal:(point comma)"
  "*--not-missing[a token such as NA that is a value here, in every column\; repeatable]:TOKEN:"
  "--encoding[the encoding of a text (default\: guessed)]:NAME:"
  "--dictionary[what is said of the columns (a Table Schema)]:datapackage.json:"
  "--columns[profile these columns only]:A,B:"
  "--no-correlation[leave the correlation matrices out]"
  "*--with[add bootstrap, intervals, monte_carlo, transformations, unimodality, robust_correlation, distance_correlation, bootstrap_correlation or multivariate, or kendall for more than 100 000 rows\; repeatable, or several with commas]:NAME:"
  "--by[add outliers and correlations within the groups of COLUMN]:COLUMN:"
  "--given[add correlations with these columns held fixed]:A,B:"
  "--seed[seed of random figures (default 20260318)]:seed:"
  "--repeats[repeats of random figures (default\: by figure)]:N:"
  "--jobs[columns at a time]:N:"
  ":a table (delimited text, spreadsheet, Parquet, Arrow, JSON or SQLite), or a study:"
)

_shtab_culvix_profile_defaults_added=0

_shtab_culvix_recipe_options=(
  "(- : *)"{-h,--help}"[show this help message and exit]"
  {-o,--output}"[file to write]:OUT.json:"
  "--alpha[level of the tests (default 0.05)]:alpha:"
  "--quantile-type[definition of quantiles (default 7, inclusive)]:1-9:"
  "*--missing[a cell text that means missing\; repeatable]:CODE:"
  "--part[the sheet of a spreadsheet, or the table of a database]:NAME:"
  "--cells[the range of a sheet to read]:B3:F200:"
  "--only[read these columns only]:A,B:"
  "--rows[read these rows only, counted from 1]:FROM-TO:"
  "--sample[read a random sample of N rows]:N:"
  "--sample-seed[seed of the sample (default 1)]:SEED:"
  "--ragged[fill lines that are too short with missing cells, or leave lines that do not fit out (default\: refuse)]:ragged:(fill leave-out)"
  "--leave-last[leave the last N rows out (a total)]:N:"
  "--header-lines[names stand in N lines (default\: judged)]:N:"
  "--decimal[the decimal mark of a text (default\: judged)]:decimal:(point comma)"
  "*--not-missing[a token such as NA that is a value here, in every column\; repeatable]:TOKEN:"
  "--encoding[the encoding of a text (default\: guessed)]:NAME:"
  "--dictionary[what is said of the columns (a Table Schema)]:datapackage.json:"
  ":a table (delimited text, spreadsheet, Parquet, Arrow, JSON or SQLite), or a study:"
)

_shtab_culvix_recipe_defaults_added=0

_shtab_culvix_remembered_options=(
  "(- : *)"{-h,--help}"[show this help message and exit]"
  "*--erase[erase this kind\; repeatable]:erase:(drafts recent pasted samples sources log all)"
  "--older-than[erase only what is older than DAYS]:DAYS:"
)

_shtab_culvix_remembered_defaults_added=0

_shtab_culvix_report_options=(
  "(- : *)"{-h,--help}"[show this help message and exit]"
  {-o,--output}"[file to write]:OUT.html:"
  "--alpha[level of the tests (default 0.05)]:alpha:"
  "--quantile-type[definition of quantiles (default 7, inclusive)]:1-9:"
  "*--missing[a cell text that means missing\; repeatable]:CODE:"
  "--part[the sheet of a spreadsheet, or the table of a database]:NAME:"
  "--cells[the range of a sheet to read]:B3:F200:"
  "--only[read these columns only]:A,B:"
  "--rows[read these rows only, counted from 1]:FROM-TO:"
  "--sample[read a random sample of N rows]:N:"
  "--sample-seed[seed of the sample (default 1)]:SEED:"
  "--ragged[fill lines that are too short with missing cells, or leave lines that do not fit out (default\: refuse)]:ragged:(fill leave-out)"
  "--leave-last[leave the last N rows out (a total)]:N:"
  "--header-lines[names stand in N lines (default\: judged)]:N:"
  "--decimal[the decimal mark of a text (default\: judged)]:decimal:(point comma)"
  "*--not-missing[a token such as NA that is a value here, in every column\; repeatable]:TOKEN:"
  "--encoding[the encoding of a text (default\: guessed)]:NAME:"
  "--dictionary[what is said of the columns (a Table Schema)]:datapackage.json:"
  ":a table (delimited text, spreadsheet, Parquet, Arrow, JSON or SQLite), or a study:"
)

_shtab_culvix_report_defaults_added=0

_shtab_culvix_sample_options=(
  "(- : *)"{-h,--help}"[show this help message and exit]"
  "--table[the table or view of a server]:SCHEMA.NAME:"
  "--query[a query whose rows are the table\; it can only read]:SQL:"
  "--query-file[a file with such a query]:FILE.sql:"
  "--seconds[how long one question to a server may take]:S:"
  {-o,--output}"[file to write]:OUT.parquet:"
  "--size[how many rows (default 100000)]:N:"
  "--seed[which ones (default 1)]:SEED:"
  "--whole[survey the whole, too, and keep its figures in the file]"
  "--by[as many rows of each of its values]:COLUMN:"
  "--beyond[write the rows of the whole with a value beyond the fences at 1.5 IQR, too (at most 100000)]:ROWS.parquet:"
  ":a file or folder of files (Parquet, Arrow, delimited text), or postgresql\:\/\/user\@host\/database\; passwords are taken from PGPASSWORD or a password file:"
)

_shtab_culvix_sample_defaults_added=0

_shtab_culvix_tables_options=(
  "(- : *)"{-h,--help}"[show this help message and exit]"
  ":postgresql\:\/\/user\@host\/database:"
)

_shtab_culvix_tables_defaults_added=0

_shtab_culvix_verify_options=(
  "(- : *)"{-h,--help}"[show this help message and exit]"
  "--source[the table, where it was moved]:FILE:"
  ":a report that Culvix wrote:"
)

_shtab_culvix_verify_defaults_added=0

_shtab_culvix_whole_options=(
  "(- : *)"{-h,--help}"[show this help message and exit]"
  "--table[the table or view of a server]:SCHEMA.NAME:"
  "--query[a query whose rows are the table\; it can only read]:SQL:"
  "--query-file[a file with such a query]:FILE.sql:"
  "--seconds[how long one question to a server may take]:S:"
  {-o,--output}"[file to write]:OUT.json:"
  "--quantile-type[definition of quantiles (default 7, inclusive)]:1-9:"
  "--study[count how many rows of the whole each of its decisions by rule meets]:STUDY:"
  ":a file or folder of files (Parquet, Arrow, delimited text), or postgresql\:\/\/user\@host\/database\; passwords are taken from PGPASSWORD or a password file:"
)

_shtab_culvix_whole_defaults_added=0


_shtab_culvix() {
  local context state line curcontext="$curcontext" one_or_more='(*)' remainder='(-)*:' default='*::: :->culvix'

  # Add default positional/remainder specs only if none exist, and only once per session
  if (( ! _shtab_culvix_defaults_added )); then
    if (( ${_shtab_culvix_options[(I)${(q)one_or_more}*]} +          ${_shtab_culvix_options[(I)${(q)remainder}*]} +          ${_shtab_culvix_options[(I)${(q)default}]} == 0 )); then
      _shtab_culvix_options+=(': :_shtab_culvix_commands' '*::: :->culvix')
    fi
    _shtab_culvix_defaults_added=1
  fi
  _arguments -C -s $_shtab_culvix_options

  case $state in
    culvix)
      words=($line[1] "${words[@]}")
      (( CURRENT += 1 ))
      curcontext="${curcontext%:*:*}:_shtab_culvix-$line[1]:"
      case $line[1] in
        apply) _arguments -C -s $_shtab_culvix_apply_options ;;
        clean) _arguments -C -s $_shtab_culvix_clean_options ;;
        compare) _arguments -C -s $_shtab_culvix_compare_options ;;
        demo) _arguments -C -s $_shtab_culvix_demo_options ;;
        desktop) _arguments -C -s $_shtab_culvix_desktop_options ;;
        inspect) _arguments -C -s $_shtab_culvix_inspect_options ;;
        profile) _arguments -C -s $_shtab_culvix_profile_options ;;
        recipe) _arguments -C -s $_shtab_culvix_recipe_options ;;
        remembered) _arguments -C -s $_shtab_culvix_remembered_options ;;
        report) _arguments -C -s $_shtab_culvix_report_options ;;
        sample) _arguments -C -s $_shtab_culvix_sample_options ;;
        tables) _arguments -C -s $_shtab_culvix_tables_options ;;
        verify) _arguments -C -s $_shtab_culvix_verify_options ;;
        whole) _arguments -C -s $_shtab_culvix_whole_options ;;
      esac
  esac
}



typeset -A opt_args

if [[ $zsh_eval_context[-1] == eval ]]; then
  # eval/source/. command, register function for later
  compdef _shtab_culvix -N culvix
else
  # autoload from fpath, call function directly
  _shtab_culvix "$@"
fi
