// A character display that is begun and written by a state machine with its commands in a table.
module top(input clk, output reg [7:0] d, output reg rs, output reg e);
  reg [8:0] table_of [0:31];
  integer k;
  initial begin
    for (k = 0; k < 32; k = k + 1) table_of[k] = 9'h120;
    table_of[0] = 9'h038; table_of[1] = 9'h00c; table_of[2] = 9'h006; table_of[3] = 9'h001;
    table_of[4] = {1'b1, "W"}; table_of[5] = {1'b1, "e"}; table_of[6] = {1'b1, "i"}; table_of[7] = {1'b1, "r"};
  end
  reg [15:0] t = 0;
  reg [4:0] at = 0;
  reg finished = 0;
  initial {d, rs, e} = 0;
  always @(posedge clk) if (!finished) begin
    t <= t == 16'd3999 ? 16'd0 : t + 1'b1;
    if (t == 0) {rs, d} <= table_of[at];
    e <= t >= 16'd20 && t < 16'd70;
    if (t == 16'd3999) begin
      at <= at + 1'b1;
      finished <= &at;
    end
  end
endmodule
